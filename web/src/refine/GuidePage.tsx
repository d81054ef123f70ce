import { Button } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { client, need } from "../api/client";
import type { FaultGuideView } from "../api/types";
import { Empty } from "../ui/Empty";
import { Figure } from "../ui/Figure";
import { count, minutes, number, percent } from "../ui/format";
import { useAddress } from "../ui/use-address";
import { WaitingSheet } from "../ui/WaitingSheet";
import "./guide.css";

type Check = FaultGuideView["checks"][number];

/** What the closed jobs say of the causes: chances, what each check sorts out, and the order of work that follows. */
export function GuidePage() {
  const { incident = "" } = useParams();
  const [search, , putAll] = useAddress();
  const yes = search.get("yes")?.split("|").filter(Boolean) ?? [];
  const no = search.get("no")?.split("|").filter(Boolean) ?? [];
  const found = useQuery({
    queryKey: ["fault-guide", incident, yes, no],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/fault-guide", {
          params: { path: { document: incident }, query: { yes, no } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  if (found.isPending || found.error) return <WaitingSheet error={found.error} />;
  const guide = found.data;
  if (!guide)
    return (
      <div className="bench only-sheet">
        <main className="sheet" id="sheet">
          <h1>Fault guide</h1>
          <Empty title="The closed jobs do not tell causes apart yet">
            At least two causes with five jobs each are wanted, and a question of the Diagnose steps that
            comes out differently for them. <Link to={`/review/${incident}`}>Read the evidence</Link>
          </Empty>
        </main>
      </div>
    );

  function say(check: Check, value: boolean | null) {
    const without = (list: string[]) => list.filter((look) => look !== check.look);
    const next = { yes: without(yes), no: without(no) };
    if (value === true) next.yes.push(check.look);
    if (value === false) next.no.push(check.look);
    putAll({ yes: next.yes.join("|") || null, no: next.no.join("|") || null });
  }

  const { written, saved, low, high } = guide.saving;
  const nSaid = yes.length + no.length;
  const mostBits = Math.max(0.01, ...guide.checks.map((check) => check.bits));
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="head">
          <div>
            <div className="mono soft">
              <Link to={`/review/${incident}`}>{incident}</Link> · drafted from{" "}
              {count(guide.n_jobs, "closed job")}
            </div>
            <h1>{guide.title}: fault guide</h1>
          </div>
          {nSaid > 0 && (
            <Button variant="default" onClick={() => putAll({ yes: null, no: null })}>
              Forget {count(nSaid, "answer")}
            </Button>
          )}
        </div>
        <div className="figures">
          <Figure
            label="To working, best order"
            value={minutes(guide.best)}
            beside={guide.method === "exact" ? "exact" : `looking ahead, at least ${minutes(guide.at_least)}`}
          />
          <Figure
            label="As the guidance asks for its checks now"
            value={minutes(written)}
            beside="expected"
          />
          <Figure
            label="The best order saves"
            value={saved > 0 ? minutes(saved) : "nothing"}
            beside={`${number(Math.round(low))} to ${number(Math.round(high))} min a job`}
          />
        </div>
        <p className="soft">
          {guide.n_uncoded > 0 &&
            `${count(guide.n_uncoded, "job")} named no cause or found nothing: counted here, not guessed at. `}
          {Object.entries(guide.rare).map(
            ([cause, n]) => `${cause}: ${count(n, "job")}, too few to learn from. `,
          )}
          One cause at a time is taken to be present; checks tell of it independently of each other.
        </p>
        {guide.is_impossible && (
          <p className="note bad" role="alert">
            No cause known here gives these answers together. Take one of them back.
          </p>
        )}
        {guide.next_line && (
          <p className="note" role="status">
            {nSaid > 0 ? "Next best after what you marked: " : "First: "}
            <b>{guide.next_line.label}</b>. From there about {minutes(guide.next_line.minutes)} to working.
          </p>
        )}
        <div className="guide-sheet">
          <table className="rows guide-table">
            <thead>
              <tr>
                <th>Check</th>
                <th className="num">Min</th>
                <th>Sorts out</th>
                {guide.causes.map((cause) => (
                  <th key={cause.cause} className="num">
                    {cause.label}
                    <div className="soft mono">
                      {percent(cause.learned.value)} % ({percent(cause.learned.low)}–
                      {percent(cause.learned.high)})
                    </div>
                    <div className="guide-now" title={`${percent(cause.now)} % after what you marked`}>
                      <i style={{ width: `${cause.now * 100}%` }} />
                      <b className="mono">{percent(cause.now)} %</b>
                    </div>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {guide.checks.map((check) => (
                <tr key={check.look}>
                  <td>
                    {check.label}
                    <div className="guide-say">
                      <button
                        type="button"
                        aria-pressed={check.said === true}
                        onClick={() => say(check, check.said === true ? null : true)}
                      >
                        So
                      </button>
                      <button
                        type="button"
                        aria-pressed={check.said === false}
                        onClick={() => say(check, check.said === false ? null : false)}
                      >
                        Not so
                      </button>
                    </div>
                  </td>
                  <td className="num">{number(check.minutes)}</td>
                  <td title={`${check.bits.toFixed(2)} bits`}>
                    <span className="guide-bits">
                      <i style={{ width: `${(100 * check.bits) / mostBits}%` }} />
                    </span>{" "}
                    <span className="mono soft">{check.bits.toFixed(2)} bits</span>
                  </td>
                  {check.cells.map((cell, i) => (
                    <td
                      key={guide.causes[i]?.cause}
                      className="num"
                      title={`${percent(cell.value)} % (${percent(cell.low)}–${percent(cell.high)}) of ${count(cell.n, "job")}`}
                    >
                      {cell.n > 0 ? `${percent(cell.value)} %` : "never asked"}
                      <div className="soft mono">{cell.n > 0 && count(cell.n, "job")}</div>
                      <div className="guide-chance">
                        <i style={{ width: `${cell.n > 0 ? cell.value * 100 : 0}%` }} />
                      </div>
                    </td>
                  ))}
                </tr>
              ))}
              <tr>
                <td>Put right</td>
                <td />
                <td />
                {guide.causes.map((cause) => (
                  <td key={cause.cause} className="num">
                    {minutes(cause.minutes)}
                    <div className="soft">{cause.repair.split(", for ")[0]}</div>
                  </td>
                ))}
              </tr>
            </tbody>
          </table>
          <section aria-label="Order of work">
            <h2>Order of work</h2>
            <ol className="guide-order">
              {guide.order.map((line) => (
                <li key={line.path} style={{ marginLeft: line.depth * 18 }} data-act={line.act}>
                  {line.when && <span className="soft">{line.when}: </span>}
                  {line.label}{" "}
                  <span className="mono soft">
                    {line.act === "check"
                      ? `so in ${percent(line.chance)} %`
                      : line.act === "repair"
                        ? `helps in ${percent(line.chance)} %`
                        : ""}
                    , {minutes(line.minutes)} from here
                  </span>
                </li>
              ))}
            </ol>
          </section>
        </div>
      </main>
    </div>
  );
}
