import { Link } from "react-router";
import type { PlanView } from "../api/types";
import { placeOf } from "../ui/places";

/** Which decision tables put the document on orders, or what is said where none does. */
export function ByTables({ plan, otherwise }: { plan: PlanView; otherwise: string }) {
  const tables = plan.used_in.filter((link) => link.kind === "decision table");
  if (tables.length === 0) return otherwise;
  return (
    <>
      Put on orders by{" "}
      {tables.map((link, i) => (
        <span key={link.document}>
          {i > 0 && ", "}
          <Link to={placeOf(link)}>{link.title}</Link>
        </span>
      ))}
      .
    </>
  );
}
