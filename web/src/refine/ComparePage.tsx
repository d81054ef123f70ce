import { Select } from "@mantine/core";
import { Link, useParams } from "react-router";
import { useComparison, useOutcomes } from "../api/queries";
import type { Evidence, RevisionComparison } from "../api/types";
import { DotRange, DotRangeKey } from "../ui/DotRange";
import { whatDiffers } from "../ui/differences";
import { Figure, ShareFigure } from "../ui/Figure";
import { leftOut, minutes, number } from "../ui/format";
import { type PHASE_COLOUR, phaseWord } from "../ui/phases";
import { placeOf } from "../ui/places";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import "./compare.css";

/** Two revisions side by side: what changed in words, and what became of the jobs of each. */
export function ComparePage() {
  const { incident = "", document = "" } = useParams();
  const [search, , putAll] = useAddress();
  const comparison = useComparison(document, search.get("older") ?? "", search.get("newer") ?? "");
  const view = comparison.data;
  const letters = view?.letters ?? [];
  const older = search.get("older") ?? view?.older ?? "";
  const newer = search.get("newer") ?? view?.newer ?? "";
  const outcomes = useOutcomes(incident, document, older, newer);
  const home = incident
    ? `/author/${incident}?plan=${document}`
    : placeOf({ kind: view?.kind ?? "plan", document });
  const before = outcomes.data?.older;
  const after = outcomes.data?.newer;
  const set = (key: string) => (value: string | null) => value && putAll({ older, newer, [key]: value });
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner" style={{ maxWidth: 1280 }}>
          <div className="head">
            <div>
              <div className="mono soft">
                {document} · <Link to={home}>{view?.title ?? document}</Link>
              </div>
              <h1>
                Revision {older} and revision {newer}
              </h1>
            </div>
            <div className="actions">
              <Select aria-label="Older" w={90} data={letters} value={older} onChange={set("older")} />
              <Select aria-label="Newer" w={90} data={letters} value={newer} onChange={set("newer")} />
            </div>
          </div>
          <Trouble error={comparison.error} />
          {comparison.data && <Changes comparison={comparison.data} />}
          {incident && (
            <>
              <h2 className="far">Results of the jobs with each</h2>
              <div className="columns">
                <Outcome letter={older} evidence={before} />
                <Outcome letter={newer} evidence={after} />
              </div>
              {outcomes.data && (
                <p className="note slate">
                  {outcomes.data.change.sentence} On site, {outcomes.data.gain.sentence}
                </p>
              )}
              <p className="soft">
                The figures above are as recorded; the sentences hold the mix of models and symptoms fixed,
                that on minutes the causes too.
              </p>
            </>
          )}
          {comparison.data?.older_plan && comparison.data.newer_plan && (
            <SideBySide comparison={comparison.data} before={before} after={after} />
          )}
        </div>
      </main>
    </div>
  );
}

function Changes({ comparison }: { comparison: RevisionComparison }) {
  if (comparison.differences.length === 0) return <p className="soft">They say the same.</p>;
  return (
    <table className="rows under">
      <thead>
        <tr>
          <th>Change</th>
          <th>Where</th>
          <th>Before, {comparison.older}</th>
          <th>After, {comparison.newer}</th>
        </tr>
      </thead>
      <tbody>
        {comparison.differences.map((d) => (
          <tr key={d.change + d.place + d.aspect}>
            <td>
              <b className={`change ${d.change}`}>{d.change}</b>
            </td>
            <td>{whatDiffers(d)}</td>
            <td>{d.before}</td>
            <td>{d.after}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Outcome({ letter, evidence }: { letter: string; evidence: Evidence | undefined }) {
  const spread = evidence?.minutes_on_site;
  return (
    <div className="figures" style={{ gridTemplateColumns: "1fr 1fr" }}>
      {evidence && (
        <ShareFigure
          label={`Revision ${letter}: fixed first time`}
          share={evidence.fixed_first_time}
          more={leftOut(evidence)}
          title={evidence.definition}
        />
      )}
      <Figure
        label="Median time on site"
        value={minutes(spread?.median)}
        beside={
          spread
            ? `${minutes(spread.low_quartile)}–${minutes(spread.high_quartile)}, ${spread.count} jobs`
            : "no jobs yet"
        }
      />
    </div>
  );
}

function SideBySide({
  comparison,
  before,
  after,
}: {
  comparison: RevisionComparison;
  before: Evidence | undefined;
  after: Evidence | undefined;
}) {
  const older = comparison.older_plan?.content.steps ?? [];
  const newer = comparison.newer_plan?.content.steps ?? [];
  const ids = [
    ...newer.map((s) => s.id),
    ...older.filter((s) => !newer.some((n) => n.id === s.id)).map((s) => s.id),
  ];
  const changes = new Map<string, Set<string>>();
  for (const d of comparison.differences)
    changes.set(d.place, (changes.get(d.place) ?? new Set()).add(d.change));
  const taken = (e: Evidence | undefined, step: string) =>
    e?.steps.find((r) => r.document === comparison.document && r.step === step)?.evidence?.taken;
  const scale =
    Math.ceil(
      Math.max(
        20,
        ...[...older, ...newer].map((s) => s.minutes.likely),
        ...ids.map((id) =>
          Math.max(taken(before, id)?.high_quartile ?? 0, taken(after, id)?.high_quartile ?? 0),
        ),
      ) / 15,
    ) * 15;
  return (
    <>
      <h2 className="far">Side by side, 0–{scale} min</h2>
      <table className="rows compare">
        <thead>
          <tr>
            <th>Revision {comparison.older}</th>
            <th className="num">Plan</th>
            <th>Taken</th>
            <th>Revision {comparison.newer}</th>
            <th className="num">Plan</th>
            <th>Taken</th>
          </tr>
        </thead>
        <tbody>
          {ids.map((id) => {
            const sides = [
              { side: "older", step: older.find((s) => s.id === id), taken: taken(before, id) },
              { side: "newer", step: newer.find((s) => s.id === id), taken: taken(after, id) },
            ];
            const marks = [...(changes.get(id) ?? [])];
            return (
              <tr key={id} className={marks.length ? "differs" : undefined}>
                {sides.map(({ side, step, taken: spread }) =>
                  step ? (
                    <SideCells
                      key={side}
                      text={step.text}
                      phase={step.phase}
                      planned={step.minutes.likely}
                      spread={spread}
                      scale={scale}
                      mark={side === "newer" ? marks.join(", ") : ""}
                    />
                  ) : (
                    <td key={side} colSpan={3} className="soft">
                      {side === "older" ? "not there yet" : "removed"}
                    </td>
                  ),
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
      <DotRangeKey />
    </>
  );
}

function SideCells({
  text,
  phase,
  planned,
  spread,
  scale,
  mark,
}: {
  text: string;
  phase: keyof typeof PHASE_COLOUR;
  planned: number;
  spread: Parameters<typeof DotRange>[0]["taken"];
  scale: number;
  mark: string;
}) {
  return (
    <>
      <td>
        <span style={{ color: phaseWord(phase), fontWeight: 650 }}>{phase}</span> {text}{" "}
        {mark && <b className="change">{mark}</b>}
      </td>
      <td className="num">{number(planned)}</td>
      <td>
        <DotRange planned={planned} taken={spread} top={scale} width={150} />
      </td>
    </>
  );
}
