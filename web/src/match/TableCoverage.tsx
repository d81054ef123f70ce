import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { guidanceChanged, useAssets, useCache, useCatalogue, useCoverage, useShelf } from "../api/queries";
import type { TableEdit, TableView } from "../api/types";
import type { Draft } from "../draft/use-draft";
import { count } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import { acrossLabel, CoverageMap, type MapChoice } from "./CoverageMap";
import { Findings } from "./Findings";
import { MapCellPane } from "./MapCellPane";

/** What the coverage of a table is shown across, as the address says; and its data. */
function useTableCoverage(view: TableView, asDraft: string | null) {
  const [search] = useAddress();
  const across = search.get("across") === "type" ? ("incident type" as const) : ("symptom" as const);
  return { across, coverage: useCoverage(across, asDraft, view.etag) };
}

interface Props {
  view: TableView;
  draft: Draft<TableView["content"]>;
  /** The draft that is asked for, where it is tried. */
  asDraft: string | null;
  /** Whether a row may be written, in a new revision where none is open. */
  mayWriteRow: boolean;
}

/** The map of what the tables cover, what is found on it, and a row for a cell that has none. */
export function TableCoverage({ view, draft, asDraft, mayWriteRow }: Props) {
  const cache = useCache();
  const [search, put, putAll] = useAddress();
  const { across, coverage } = useTableCoverage(view, asDraft);
  const catalogue = useCatalogue().data;
  const shelf = useShelf().data ?? [];
  const assets = useAssets().data ?? [];
  const cell = cellOf(search.get("cell"));

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

  if (!coverage.data || !catalogue) return <Trouble error={coverage.error} />;
  return (
    <>
      <Trouble error={coverage.error} />
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
          canWrite={mayWriteRow}
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
          putAll({ order: null, asset: found.asset.code, symptom: witness.symptom, day: witness.day });
        }}
      />
    </>
  );
}

/** The largest gap of the map, one press from looking at it. */
export function LargestGap({ view, asDraft }: { view: TableView; asDraft: string | null }) {
  const [, put] = useAddress();
  const { across, coverage } = useTableCoverage(view, asDraft);
  const largest = coverage.data?.gaps.cells[0];
  if (!coverage.data || !largest) return null;
  return (
    <section className="note" aria-label="Largest gap">
      <h2>Largest gap: {largest.sentence}</h2>
      <p style={{ margin: "4px 0 8px" }}>
        {largest.orders.length} of {count(coverage.data.gaps.n_orders, "past order")} got only what every
        order gets.
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
  );
}

function cellOf(text: string | null): MapChoice | null {
  if (!text) return null;
  const [equipment = "", code = ""] = text.split("|");
  return { equipment, code };
}
