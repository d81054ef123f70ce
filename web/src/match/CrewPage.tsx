import { Select, Switch, TextInput } from "@mantine/core";
import { useCatalogue, useCrew, useSharedDocuments, useShelf } from "../api/queries";
import type { CrewPage as Crew, Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { count, dayYear, percent } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import { LeftPlot } from "./LeftPlot";
import { MatchNav } from "./MatchNav";
import "./match.css";

/** Who can do it: today, and on a day to come, in each district. */
export function CrewPage({ person }: { person: Person }) {
  const [search, put] = useAddress();
  const shelf = useShelf().data ?? [];
  const shared = useSharedDocuments().data ?? [];
  const skills = useCatalogue().data?.skills ?? [];
  const document = search.get("document") ?? shelf[0]?.document ?? null;
  const branches = search.get("branches") === "yes";
  const page = useCrew(document, search.get("on"), branches);
  const skill = (code: string) => skills.find((s) => s.code === code)?.name.toLowerCase() ?? code;
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <MatchNav writes={person.role !== "planner"} />
          <h1>Who can do it</h1>
          <div className="actions" style={{ alignItems: "flex-end", margin: "8px 0 12px" }}>
            <Select
              label="Incident type, plan or form, as it is being written"
              w={330}
              searchable
              data={[
                {
                  group: "Incident types",
                  items: shelf.map((row) => ({ value: row.document, label: row.title })),
                },
                {
                  group: "Plans, forms, standard steps",
                  items: shared.map(({ link }) => ({
                    value: link.document,
                    label: `${link.title}, ${link.document}`,
                  })),
                },
              ]}
              value={document}
              onChange={(value) => put("document", value)}
            />
            <TextInput
              type="date"
              label="And on"
              value={search.get("on") ?? page.data?.crew.later ?? ""}
              onChange={(e) => put("on", e.currentTarget.value || null)}
            />
            <Switch
              label="Branches too"
              checked={branches}
              onChange={(e) => put("branches", e.currentTarget.checked ? "yes" : null)}
              mb={8}
            />
          </div>
          <Trouble error={page.error} />
          {!document && (
            <Empty title="Nothing to staff yet">
              Write an incident type first; its steps say what they take.
            </Empty>
          )}
          {page.data && <Sheet page={page.data} skill={skill} />}
        </div>
      </main>
    </div>
  );
}

function Sheet({ page, skill }: { page: Crew; skill: (code: string) => string }) {
  const { crew } = page;
  const needs = crew.needs.map((n) => `${skill(n.skill)} ${n.level}`).join(", ");
  const today = crew.districts.flatMap((d) => d.today);
  const later = crew.districts.flatMap((d) => d.later);
  const all = crew.districts.reduce((n, d) => n + d.n_technicians, 0);
  return (
    <>
      <p style={{ margin: "0 0 4px" }}>
        It takes <b>{needs || "no particular skill"}</b>
        {page.sometimes.length > 0 &&
          !page.with_branches &&
          `, and in some jobs ${page.sometimes.map((s) => `${skill(s.need.skill)} ${s.need.level} (${percent(s.share)} % of jobs)`).join(", ")}`}
        . <b>{today.length}</b> of {count(all, "technician")} can do it today, <b>{later.length}</b> on{" "}
        {dayYear(crew.later)}.
      </p>
      {today.length < 2 && (
        <p className="note bad" role="alert">
          {today.length === 0
            ? "Nobody can do it today with all that it takes."
            : `Only ${today[0]} can do it today.`}
        </p>
      )}
      <LeftPlot crew={crew} />
      <div className="who">
        {crew.districts.map((d) => (
          <section key={d.district} aria-label={d.district}>
            <h2>{d.district || "No district"}</h2>
            <p className="soft flat">
              {d.today.length} of {d.n_technicians} today, {d.later.length} on {dayYear(crew.later)}
            </p>
            <ul>
              {d.today
                .filter((t) => !d.lost.some((m) => m.technician === t))
                .map((t) => (
                  <li key={t} data-can="yes">
                    {t} <span className="soft">can, on both days</span>
                  </li>
                ))}
              {d.lost.map((m) => (
                <li key={m.technician} data-can="lost">
                  {m.technician}{" "}
                  <span className="soft">
                    can today; {m.lacking.map((l) => lackWords(l, skill)).join(", ")} by then
                  </span>
                </li>
              ))}
              {d.later
                .filter((t) => !d.today.includes(t))
                .map((t) => (
                  <li key={t} data-can="nearly">
                    {t} <span className="soft">can then, not today</span>
                  </li>
                ))}
              {d.nearly
                .filter((m) => !d.later.includes(m.technician))
                .map((m) => (
                  <li key={m.technician} data-can="nearly">
                    {m.technician}{" "}
                    <span className="soft">
                      lacks one thing: {m.lacking.map((l) => lackWords(l, skill)).join(", ")}
                    </span>
                  </li>
                ))}
            </ul>
            {d.today.length === 0 && (
              <p style={{ color: "var(--bad)", margin: "2px 0" }}>Nobody here today.</p>
            )}
          </section>
        ))}
      </div>
      <p className="soft">
        Filled: can on both days. Broken ring: can today, not on the day asked for. Dotted ring: lacks one
        thing.
      </p>
    </>
  );
}

type Lack = Crew["crew"]["districts"][number]["lost"][number]["lacking"][number];

function lackWords(lack: Lack, skill: (code: string) => string): string {
  if (lack.expired_on) return `${skill(lack.skill)} ran out on ${dayYear(lack.expired_on)}`;
  return lack.held
    ? `${skill(lack.skill)} at ${lack.level}, holds ${lack.held}`
    : `${skill(lack.skill)} at ${lack.level}`;
}
