import { useEffect } from "react";
import { useNavigate, useParams } from "react-router";
import { useTables } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { MatchNav } from "./MatchNav";
import { TableBench } from "./TableBench";

/** Match: when documents go on orders, as decision tables, and how well orders are served by them. */
export function MatchPage({ person }: { person: Person }) {
  const { table } = useParams();
  const tables = useTables();
  const navigate = useNavigate();
  const first = tables.data?.[0]?.link.document;
  const writes = mayWrite(person);
  useEffect(() => {
    if (!table && first)
      void navigate({ pathname: `/match/tables/${first}`, search: location.search }, { replace: true });
  }, [table, first, navigate]);
  if (table) return <TableBench key={table} document={table} person={person} />;
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet" aria-busy={!tables.data}>
        <MatchNav writes={writes} />
        {tables.data?.length === 0 && (
          <Empty title="No decision table yet">
            A table says which plans and forms go on which orders, row by row. Begin one above: the call-out
            that comes most often makes the first row.
          </Empty>
        )}
      </main>
    </div>
  );
}
