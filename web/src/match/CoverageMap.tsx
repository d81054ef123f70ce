import "./coverage-map.css";
import { SegmentedControl } from "@mantine/core";
import type { Catalogue, Coverage, MapCell, ShelfRow } from "../api/types";
import { count } from "../ui/format";

const COVER_WORDS: Record<MapCell["cover"], string> = {
  gap: "no row says what to do",
  part: "rows for some of them only",
  one: "one plan of its own",
  several: "several plans of its own",
};

export interface MapChoice {
  equipment: string;
  code: string;
}

/** Equipment against symptom or incident type, shaded by past orders: gap, part, one, several. */
export function CoverageMap({
  coverage,
  across,
  chosen,
  catalogue,
  shelf,
  onAcross,
  onChoose,
}: {
  coverage: Coverage;
  across: "symptom" | "incident type";
  chosen: MapChoice | null;
  catalogue: Catalogue;
  shelf: ShelfRow[];
  onAcross: (across: "symptom" | "incident type") => void;
  onChoose: (cell: MapChoice | null) => void;
}) {
  const { map } = coverage;
  const cells = new Map(map.cells.map((c) => [`${c.equipment} ${c.across}`, c]));
  const most = Math.max(1, ...map.cells.map((c) => c.n_orders));
  const equipment = (code: string) => catalogue.equipment.find((c) => c.code === code)?.name ?? code;
  const heading = (code: string) => acrossLabel(code, across, catalogue, shelf);
  const columns = map.columns.filter(
    (code) => code || map.cells.some((c) => c.across === code && (c.n_orders > 0 || c.rows.length > 0)),
  );
  return (
    <section aria-label="Coverage">
      <div className="head far">
        <h2>Coverage, by {count(map.n_orders, "past order")}</h2>
        <SegmentedControl
          size="xs"
          aria-label="Across"
          data={[
            { value: "symptom", label: "by symptom" },
            { value: "incident type", label: "by incident type" },
          ]}
          value={across}
          onChange={(value) => onAcross(value as typeof across)}
        />
      </div>
      <div style={{ overflowX: "auto" }}>
        <table className="map">
          <thead>
            <tr>
              <th aria-label="Equipment" />
              {columns.map((code) => (
                <th key={code} scope="col">
                  {heading(code)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {map.equipment.map((code) => (
              <tr key={code}>
                <th scope="row">{equipment(code)}</th>
                {columns.map((column) => {
                  const cell = cells.get(`${code} ${column}`);
                  if (!cell) return <td key={column} />;
                  const share = Math.sqrt(cell.n_orders / most);
                  const unserved =
                    cell.n_unserved > 0 ? `, ${cell.n_unserved} of them without a row of their own` : "";
                  const words = `${equipment(code)}, ${heading(column)}: ${COVER_WORDS[cell.cover]}, ${count(cell.n_orders, "past order")}${unserved}`;
                  return (
                    <td key={column}>
                      <button
                        type="button"
                        data-cover={cell.cover}
                        data-orders={cell.n_orders > 0 ? "yes" : undefined}
                        style={{ "--share": share } as React.CSSProperties}
                        aria-pressed={chosen?.equipment === code && chosen.code === column}
                        aria-label={words}
                        title={words}
                        onClick={() =>
                          onChoose(
                            chosen?.equipment === code && chosen.code === column
                              ? null
                              : { equipment: code, code: column },
                          )
                        }
                      >
                        {cell.n_orders || ""}
                      </button>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="map-key">
        Number: past orders. Filled: one plan of its own. Striped: several. Half filled and broken ring: rows
        for some of them only. Ring: orders came in and no row says what to do. Choose a cell to see its
        orders and rows, or to write a row for it.
      </p>
    </section>
  );
}

/** A symptom or incident type by its name. */
export function acrossLabel(
  code: string,
  across: "symptom" | "incident type",
  catalogue: Catalogue | undefined,
  shelf: ShelfRow[],
): string {
  if (!code) return "none";
  if (across === "symptom") return catalogue?.symptoms.find((s) => s.code === code)?.label ?? code;
  return shelf.find((row) => row.document === code)?.title ?? code;
}
