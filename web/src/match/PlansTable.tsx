import { useQueries } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { keys } from "../api/queries";
import type { Catalogue, MatchTrace, PlanView, ShelfRow } from "../api/types";

/** Each plan with its cells: equipment, model, symptom. Those that match the trial are marked. */
export function PlansTable({
  incidents,
  catalogue,
  trace,
}: {
  incidents: ShelfRow[];
  catalogue: Catalogue | undefined;
  trace: MatchTrace[] | undefined;
}) {
  const pages = useQueries({
    queries: incidents.map((row) => ({
      queryKey: keys.page(row.document),
      queryFn: () =>
        need(client.GET("/api/incident-types/{document}", { params: { path: { document: row.document } } })),
    })),
  });
  const plans = new Map<string, { plan: PlanView; incident: string }>();
  pages.forEach((page, i) => {
    for (const plan of page.data?.plans ?? [])
      plans.set(plan.document, { plan, incident: incidents[i]?.document ?? "" });
  });
  const matched = new Map((trace ?? []).map((t) => [t.document, t]));
  const rows = [...plans.values()];
  const extra = (trace ?? []).filter((t) => !plans.has(t.document));
  const name = (list: { code: string; name?: string; label?: string }[] | undefined, code: string) => {
    const found = list?.find((item) => item.code === code);
    return found?.name ?? found?.label ?? code;
  };
  const any = <span className="soft">any</span>;
  return (
    <table className="rows" style={{ marginTop: 10 }}>
      <thead>
        <tr>
          <th>Equipment</th>
          <th>Model</th>
          <th>Symptom</th>
          <th>Work plan</th>
          <th>Revision</th>
          <th>This order</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ plan, incident }) => {
          const cells = plan.content.applies_when;
          const hit = matched.get(plan.document);
          return (
            <tr key={plan.document} className={hit?.matched ? "chosen" : undefined}>
              <td>{cells.equipment ? name(catalogue?.equipment, cells.equipment) : any}</td>
              <td>{cells.models.map((m) => name(catalogue?.models, m)).join(", ") || any}</td>
              <td>{cells.symptoms.map((s) => name(catalogue?.symptoms, s)).join(", ") || any}</td>
              <td>
                <Link to={`/author/${incident}?plan=${plan.document}`}>{plan.content.title}</Link>
              </td>
              <td className="mono">
                {plan.in_force ? `${plan.in_force} in force` : "not released"}
                {plan.state === "Draft" && plan.in_force && `, ${plan.letter} draft`}
              </td>
              <td>{hit ? (hit.matched ? "applies" : `${hit.misses} away`) : ""}</td>
            </tr>
          );
        })}
        {extra.map((t) => (
          <tr key={t.document} className={t.matched ? "chosen" : undefined}>
            {t.cells.map((c) => (
              <td key={c.column}>{c.wanted === "any" ? any : c.wanted}</td>
            ))}
            <td>{t.title}</td>
            <td className="mono">{t.revision} in force</td>
            <td>{t.matched ? "applies" : `${t.misses} away`}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
