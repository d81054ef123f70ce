import { useHotkeys } from "@mantine/hooks";
import { useMemo } from "react";
import { keys, useCache, useOrderTried, useTable, useTableFindings } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person, TableView } from "../api/types";
import { rework, useDraft } from "../draft/use-draft";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import { MatchNav } from "./MatchNav";
import { Relations } from "./Relations";
import { TableChecks } from "./TableChecks";
import { LargestGap, TableCoverage } from "./TableCoverage";
import { TableHead } from "./TableHead";
import { TableRows } from "./TableRows";
import { TryOrder } from "./TryOrder";
import { useTriedOrder } from "./use-tried-order";
import "./match.css";

/** One decision table: the sheet, who would notice, the coverage map, and an order to try. */
export function TableBench({ document: id, person }: { document: string; person: Person }) {
  const table = useTable(id);
  const writes = mayWrite(person);
  if (!table.data)
    return (
      <div className="bench only-sheet">
        <main className="sheet" id="sheet" aria-busy={!table.error}>
          <MatchNav writes={writes} />
          <Trouble error={table.error} />
        </main>
      </div>
    );
  return <Bench view={table.data} person={person} writes={writes} />;
}

function Bench({ view, person, writes }: { view: TableView; person: Person; writes: boolean }) {
  const cache = useCache();
  const [search, put] = useAddress();
  const keeper = useMemo(
    () => ({
      put: (next: TableView) => cache.setQueryData(keys.table(view.document), next),
      again: () => cache.refetchQueries({ queryKey: keys.table(view.document) }),
    }),
    [cache, view.document],
  );
  const draft = useDraft<TableView>(view, keeper);
  const editable = writes && view.state === "Draft";
  const isOpen = view.state === "Draft" || view.state === "In review";
  const tried = useTriedOrder();
  const asDraft = isOpen && tried.values.draft ? view.document : null;
  const { asset, symptom, order, day, priority, type } = tried.values;
  const result = useOrderTried({
    asset,
    symptom,
    order,
    day,
    priority: priority ?? "",
    incident_type: type ?? "",
    draft: asDraft,
  });
  const isTried = Boolean(order || (asset && symptom));
  const findings = useTableFindings(view.document, view.etag).data;

  useHotkeys([
    ["mod+z", () => editable && draft.undo()],
    ["mod+shift+z", () => editable && draft.redo()],
    ["n", () => editable && draft.change({ tableEdit: { kind: "add row", after: null, copy_of: null } })],
    ["c", () => document.getElementById("checks")?.focus()],
  ]);

  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="inner">
          <MatchNav writes={writes} />
          <TableHead view={view} draft={draft} editable={editable} isOpen={isOpen} person={person} />
          <TableRows
            view={view}
            draft={draft}
            editable={editable}
            findings={findings}
            trace={isTried ? result.data?.trace : undefined}
            chosenRow={search.get("row")}
          />
          <TableChecks view={view} findings={findings} onOpen={(row) => put("row", row)} />
          <Relations
            view={view}
            editable={editable}
            onRework={(field, make) => draft.change(rework<TableView["content"], typeof field>(field, make))}
          />
          <TableCoverage
            view={view}
            draft={draft}
            asDraft={asDraft}
            mayWriteRow={writes && view.state !== "In review"}
          />
        </div>
      </main>
      <TryOrder
        state={tried}
        result={isTried ? result.data : undefined}
        error={result.error}
        draftOf={isOpen ? `${view.document} ${view.letter}` : null}
      >
        <LargestGap view={view} asDraft={asDraft} />
      </TryOrder>
    </div>
  );
}
