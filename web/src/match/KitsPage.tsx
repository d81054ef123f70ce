import { NumberInput, Select } from "@mantine/core";
import { useKit, useShelf } from "../api/queries";
import type { KitPage as Kit, Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { count, number, percent, shareText } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import { LadderPlot } from "./LadderPlot";
import { MatchNav } from "./MatchNav";
import "./match.css";

/** Parts, tools and kits: what an incident type is likely to want, where it is, and what to carry. */
export function KitsPage({ person }: { person: Person }) {
  const [search, put] = useAddress();
  const shelf = useShelf().data ?? [];
  const document = search.get("type") ?? shelf[0]?.document ?? null;
  const goal = Number(search.get("goal") ?? 0.8);
  const page = useKit(document, goal);
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <MatchNav writes={person.role !== "planner"} />
          <h1>Parts, tools and kits</h1>
          <div className="actions" style={{ alignItems: "flex-end", margin: "8px 0 12px" }}>
            <Select
              label="Incident type"
              w={300}
              searchable
              data={shelf.map((row) => ({ value: row.document, label: row.title }))}
              value={document}
              onChange={(value) => put("type", value)}
            />
            <NumberInput
              label="Finish the first time"
              w={170}
              min={1}
              max={100}
              step={5}
              suffix=" % of jobs"
              allowDecimal={false}
              clampBehavior="strict"
              value={Math.round(goal * 100)}
              onChange={(value) => value !== "" && put("goal", String(Number(value) / 100))}
            />
          </div>
          <Trouble error={page.error} />
          {!document && (
            <Empty title="No incident type yet">Write one; its steps say which parts they take.</Empty>
          )}
          {page.data && (
            <Sheet
              page={page.data}
              to={(share) => `?type=${document}&goal=${Math.max(Math.floor(share * 1e4) / 1e4, 0.01)}`}
            />
          )}
        </div>
      </main>
    </div>
  );
}

function basisWords({ kit, n_jobs }: Kit): string {
  if (kit.basis === "past use")
    return `from what ${count(kit.n_jobs, "finished job")} took; ${kit.method === "exact" ? "no smaller set does" : "put together part by part, since there are many parts; a smaller set may do"}`;
  if (kit.basis === "author's figures")
    return `from the author's figures, each part by itself, since only ${count(n_jobs, "job is", "jobs are")} finished`;
  return "no step takes a part";
}

function Sheet({ page, to }: { page: Kit; to: (goal: number) => string }) {
  const { kit } = page;
  return (
    <>
      <section aria-label="The kit" className="kit">
        <div>
          <h2>The kit to carry</h2>
          {page.carry.length > 0 && <p>{page.carry.join(", ")}.</p>}
          {kit.parts.length === 0 ? (
            <p>
              No part: {percent(kit.finished)} % of jobs are finished without one, {basisWords(page)}.
            </p>
          ) : (
            <p className="soft">
              It finishes{" "}
              <b>
                {page.finished.share === null
                  ? `${percent(kit.finished)} % of jobs`
                  : shareText(page.finished)}
              </b>{" "}
              the first time, {basisWords(page)}. Out of {count(kit.n_candidates, "part")}.
            </p>
          )}
          {page.tools.length > 0 && (
            <p className="soft">
              <b className="planned">{percent(page.tools_enough)} %</b> of jobs want no other tool, from the
              author's figures, each tool by itself. Out of {count(page.tools.length, "tool")}.
            </p>
          )}
        </div>
        <LadderPlot page={page} to={to} />
      </section>
      <section aria-label="Likely parts">
        <h2 className="apart">Likely parts</h2>
        {page.parts.length === 0 && (
          <p className="soft">No step of its plans takes a part, and no job did.</p>
        )}
        {page.parts.length > 0 && (
          <table className="rows">
            <thead>
              <tr>
                <th>Part</th>
                <th className="num">Jobs took it</th>
                <th style={{ width: 170 }} aria-label="Taken and written, as bars" />
                <th className="num">Author says</th>
                <th style={{ paddingLeft: 14 }}>In the kit</th>
                <th>Stocked at</th>
                <th>Vans</th>
                <th>Will do instead</th>
              </tr>
            </thead>
            <tbody>
              {page.parts.map((p) => (
                <tr key={p.part}>
                  <td>
                    {p.name} <span className="mono soft">{p.part}</span>
                  </td>
                  <td className="num">{shareText(p.taken)}</td>
                  <td>
                    <span className="bar taken" style={{ width: `${(p.taken.share ?? 0) * 100}%` }} />
                    {p.chance !== null && (
                      <span className="bar planned" style={{ width: `${p.chance * 100}%`, marginTop: 3 }} />
                    )}
                  </td>
                  <td className="num">{p.chance === null ? "no step" : `${percent(p.chance)} %`}</td>
                  <td style={{ paddingLeft: 14 }}>
                    {p.in_kit === null ? <span className="soft">no</span> : `${number(p.in_kit)} ${p.unit}`}
                  </td>
                  <td>{p.stocked.join(", ") || <span style={{ color: "var(--bad)" }}>nowhere</span>}</td>
                  <td title={p.vans.join(", ")}>
                    {p.vans.length} of {page.n_vans}
                  </td>
                  <td>{p.substitutes.join(", ") || <span className="soft">nothing</span>}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        <p className="soft">
          Slate: the share of finished jobs that took it. Tawny, dashed: the chance that the author's figures
          give.
        </p>
      </section>
      {page.tools.length > 0 && <Tools page={page} />}
    </>
  );
}

function Tools({ page }: { page: Kit }) {
  return (
    <section aria-label="Tools">
      <h2 className="apart">Tools</h2>
      <table className="rows">
        <thead>
          <tr>
            <th>Tool</th>
            <th className="num">At once</th>
            <th className="num">Wanted, by the author</th>
            <th style={{ width: 170 }} aria-label="Wanted, as a bar" />
            <th>In the kit</th>
            <th>Kept at</th>
            <th>Vans</th>
          </tr>
        </thead>
        <tbody>
          {page.tools.map((t) => (
            <tr key={t.tool}>
              <td>
                {t.name} <span className="mono soft">{t.tool}</span>
              </td>
              <td className="num">{t.quantity}</td>
              <td className="num">{percent(t.chance)} %</td>
              <td>
                <span className="bar planned" style={{ width: `${t.chance * 100}%` }} />
              </td>
              <td>{t.in_kit ? "yes" : <span className="soft">no</span>}</td>
              <td>{t.stocked.join(", ") || <span className="soft">in vans only</span>}</td>
              <td title={t.vans.join(", ")}>
                {t.vans.length} of {page.n_vans}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
