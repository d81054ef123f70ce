import { Button, Menu } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { IconPlus } from "@tabler/icons-react";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import type { Refused } from "../api/client";
import {
  guidanceChanged,
  keys,
  useAssets,
  useCache,
  useCatalogue,
  useCoverage,
  useNoticed,
  useOrderTried,
  useShelf,
  useTable,
  useTableFindings,
} from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person, TableEdit, TableFindings, TableView } from "../api/types";
import { EditableText } from "../draft/EditableText";
import { ReleaseBar } from "../draft/ReleaseBar";
import { SheetHead } from "../draft/SheetHead";
import { useDiscard } from "../draft/use-discard";
import { rework, setPlan, useDraft } from "../draft/use-draft";
import { count } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import { acrossLabel, CoverageMap, type MapChoice } from "./CoverageMap";
import { Findings } from "./Findings";
import { MapCellPane } from "./MapCellPane";
import { MatchNav } from "./MatchNav";
import { NoticedDrawer } from "./Noticed";
import { type Pasted, PastedSheet } from "./PastedSheet";
import { Relations } from "./Relations";
import { TableSheet } from "./TableSheet";
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
  const [search, put, putAll] = useAddress();
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
  const chosen = Boolean(order || (asset && symptom));
  const across = search.get("across") === "type" ? ("incident type" as const) : ("symptom" as const);
  const findings = useTableFindings(view.document, view.etag).data;
  const coverage = useCoverage(across, asDraft, view.etag);
  const noticed = useNoticed(view.document, view.etag);
  const catalogue = useCatalogue().data;
  const shelf = useShelf().data ?? [];
  const assets = useAssets().data ?? [];
  const [noticing, setNoticing] = useState(false);
  const [pasted, setPasted] = useState<Pasted | null>(null);
  const cell = cellOf(search.get("cell"));

  useHotkeys([
    ["mod+z", () => editable && draft.undo()],
    ["mod+shift+z", () => editable && draft.redo()],
    ["n", () => editable && edit({ kind: "add row", after: null, copy_of: null })],
    ["c", () => document.getElementById("checks")?.focus()],
  ]);

  function edit(change: TableEdit) {
    return draft.change({ tableEdit: change });
  }

  function paste(at: { row: string; column: number }, sheet: string, skip = false) {
    const refused = (refusal: Refused) => {
      if (refusal.problem.code !== "tables.unreadable") return false;
      setPasted({ ...at, text: sheet, problems: refusal.problem.problems });
      return true;
    };
    const change = { kind: "set texts" as const, row: at.row, column: at.column, texts: [], sheet, skip };
    return draft.change({ tableEdit: change }, refused).then((saved) => {
      if (saved) setPasted(null);
    });
  }

  /** A row for a cell of the map; a table in force gets its next revision first. */
  async function writeRow(choice: MapChoice, document: string) {
    const columns = [
      [{ kind: "equipment" as const, meter: "" }, choice.equipment],
      [{ kind: across, meter: "" }, choice.code],
    ] as [{ kind: "equipment" | "symptom" | "incident type"; meter: string }, string][];
    const write: TableEdit = { kind: "write row", cells: columns, documents: document };
    const saved = await draft.change({ tableEdit: write, begin: view.state !== "Draft" });
    if (!saved) return;
    if (view.state !== "Draft") guidanceChanged(cache);
    notifications.show({ message: "The row stands at the end of the table." });
  }

  const discard = useDiscard([view], {
    only: view.history.length === 1,
    all: "Throw this table away? Nothing of it was released.",
    home: "/match",
  });

  const largest = coverage.data?.gaps.cells[0];
  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="inner">
          <MatchNav writes={writes} />
          <SheetHead
            line={`table, ${count(view.rows.length, "row")}`}
            plan={view}
            title={view.content.title}
            titleEditable={editable}
            editable={editable}
            draft={draft}
            compareTo={`/refine/documents/${view.document}`}
            onRename={(title) => draft.change(setPlan("title", title))}
          >
            {isOpen && (
              <Button variant="default" onClick={() => setNoticing(true)}>
                Who would notice: {noticed.data ? count(noticed.data.n_changed, "order") : "…"}
              </Button>
            )}
            <ReleaseBar
              document={view.document}
              plan={view}
              openStates={isOpen ? [view.state] : []}
              person={person}
              historyBase={`/refine/documents/${view.document}`}
              discard={discard}
            />
          </SheetHead>
          <div className="plan-summary">
            <EditableText
              label="Summary"
              placeholder="What the table is for, in a sentence"
              value={view.content.summary}
              editable={editable}
              onSave={(value) => draft.change(setPlan("summary", value))}
            />
          </div>
          {isOpen && view.in_force && (
            <p>
              <Link to={`/refine/replays/${view.document}`}>Replay the draft on past jobs</Link>
            </p>
          )}
          {pasted && (
            <PastedSheet
              pasted={pasted}
              onText={(text) => setPasted({ ...pasted, text })}
              onAgain={() => paste(pasted, pasted.text)}
              onRest={() => paste(pasted, pasted.text, true)}
              onDrop={() => setPasted(null)}
            />
          )}
          {view.rows.length === 0 && (
            <p className="soft">
              No row yet.{" "}
              {editable && "Add one, or paste a sheet: one row a line, the documents in the last column."}
            </p>
          )}
          <TableSheet
            view={view}
            findings={findings}
            editable={editable}
            trace={chosen ? result.data?.trace : undefined}
            chosenRow={search.get("row")}
            onEdit={edit}
            onPaste={paste}
          />
          <div className="actions">
            {editable && (
              <>
                <Button
                  variant="default"
                  leftSection={<IconPlus size={15} />}
                  onClick={() => edit({ kind: "add row", after: null, copy_of: null })}
                >
                  New row
                </Button>
                <AddColumn view={view} onEdit={edit} />
                <Button
                  variant="subtle"
                  color="slate"
                  onClick={() => setPasted({ row: "", column: 0, text: "", problems: [] })}
                >
                  Paste a sheet
                </Button>
              </>
            )}
            <Button variant="subtle" color="slate" onClick={() => download(view)}>
              Save as CSV
            </Button>
            {editable && (
              <span className="soft">
                Arrows move, typing writes, Enter goes down, Tab right, Ctrl+Enter adds a row, Delete means
                any.
              </span>
            )}
          </div>
          <Problems view={view} findings={findings} onOpen={(row) => put("row", row)} />
          <Relations
            view={view}
            editable={editable}
            onRework={(field, make) => draft.change(rework<TableView["content"], typeof field>(field, make))}
          />
          <Trouble error={coverage.error} />
          {coverage.data && catalogue && (
            <>
              <CoverageMap
                coverage={coverage.data}
                across={across}
                chosen={cell}
                catalogue={catalogue}
                shelf={shelf}
                onAcross={(value) => put("across", value === "symptom" ? null : "type")}
                onChoose={(choice) => put("cell", choice ? `${choice.equipment}|${choice.code}` : null)}
              />
              {cell && (
                <MapCellPane
                  key={`${cell.equipment}${cell.code}`}
                  across={across}
                  cell={cell}
                  words={`${catalogue.equipment.find((c) => c.code === cell.equipment)?.name ?? cell.equipment}, ${acrossLabel(cell.code, across, catalogue, shelf).toLowerCase()}`}
                  draft={asDraft}
                  etag={view.etag}
                  documents={view.documents}
                  canWrite={writes && view.state !== "In review"}
                  onWrite={(document) => writeRow(cell, document)}
                  byHand={coverage.data.by_hand}
                />
              )}
              <Findings
                coverage={coverage.data}
                onTry={(witness) => {
                  const found = assets.find(
                    ({ asset: a }) =>
                      a.equipment === witness.equipment && (!witness.model || a.model === witness.model),
                  );
                  if (!found) {
                    notifications.show({ message: "There is no asset of this kind to try it on." });
                    return;
                  }
                  putAll({
                    order: null,
                    asset: found.asset.code,
                    symptom: witness.symptom,
                    day: witness.day,
                  });
                }}
              />
            </>
          )}
        </div>
      </main>
      <TryOrder
        state={tried}
        result={chosen ? result.data : undefined}
        error={result.error}
        draftOf={isOpen ? `${view.document} ${view.letter}` : null}
      >
        {largest && (
          <section className="note" aria-label="Largest gap">
            <h2>Largest gap: {largest.sentence}</h2>
            <p style={{ margin: "4px 0 8px" }}>
              {largest.orders.length} of {count(coverage.data?.gaps.n_orders ?? 0, "past order")} got only
              what every order gets.
            </p>
            <Button
              variant="default"
              onClick={() => {
                const code = across === "symptom" ? largest.witness.symptom : largest.witness.incident_type;
                put("cell", `${largest.witness.equipment}|${code}`);
                window.document.querySelector('[aria-label="Coverage"]')?.scrollIntoView();
              }}
            >
              Look at it
            </Button>
          </section>
        )}
      </TryOrder>
      <NoticedDrawer
        document={view.document}
        etag={view.etag}
        shown={noticing}
        onClose={() => setNoticing(false)}
      />
    </div>
  );
}

function cellOf(text: string | null): MapChoice | null {
  if (!text) return null;
  const [equipment = "", code = ""] = text.split("|");
  return { equipment, code };
}

function AddColumn({ view, onEdit }: { view: TableView; onEdit: (edit: TableEdit) => void }) {
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <Button variant="subtle" color="slate" leftSection={<IconPlus size={14} />}>
          Column
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        {view.more_columns.map((c) => (
          <Menu.Item key={c.heading} onClick={() => onEdit({ kind: "add column", column: c.column })}>
            {c.heading}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function Problems({
  view,
  findings,
  onOpen,
}: {
  view: TableView;
  findings: TableFindings | undefined;
  onOpen: (row: string) => void;
}) {
  const problems = findings?.problems ?? [];
  const stale = findings && findings.etag !== view.etag;
  if (problems.length === 0) return null;
  const errors = problems.filter(({ problem }) => problem.severity === "error").length;
  return (
    <section aria-label="Checks" id="checks" tabIndex={-1} aria-busy={stale}>
      <h2 style={{ marginTop: 16 }}>Checks on this {view.state === "Draft" ? "draft" : "revision"}</h2>
      <p className="soft" style={{ margin: "2px 0" }}>
        {errors} to mend before review, {problems.length - errors} worth a look
        {stale ? ", before the last change; checking again" : ""}.
      </p>
      <ul className="plain-list">
        {problems.slice(0, 40).map(({ row, problem }) => (
          <li key={`${problem.path}${problem.message}`}>
            <span className="soft">{problem.severity === "error" ? "Error. " : "Worth a look. "}</span>
            {problem.message} {problem.hint}{" "}
            {row && (
              <button type="button" className="linklike" onClick={() => onOpen(row)}>
                Show row
              </button>
            )}
          </li>
        ))}
      </ul>
      {problems.length > 40 && <p className="soft">and {problems.length - 40} more.</p>}
    </section>
  );
}

/** The table as a sheet for other programs, one row a line (RFC 4180). */
function download(view: TableView) {
  const quote = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const lines = [
    [...view.columns.map((c) => c.heading), "documents"],
    ...view.rows.map((row) => [...row.texts, row.documents.map((d) => d.document).join("; ")]),
  ];
  const text = lines.map((line) => line.map(quote).join(",")).join("\r\n");
  const link = window.document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
  link.download = `${view.document}-${view.letter}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}
