import { ActionIcon, Menu } from "@mantine/core";
import { IconDots, IconX } from "@tabler/icons-react";
import { useVirtualizer } from "@tanstack/react-virtual";
import {
  type ClipboardEvent,
  type KeyboardEvent,
  useEffect,
  useEffectEvent,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { MatchTrace, RowView, TableEdit, TableFindings, TableView } from "../api/types";
import { focusIsLost } from "../ui/focus";
import { count } from "../ui/format";
import { CellEditor } from "./CellEditor";

const ROW_HEIGHT = 33;
/** From so many rows on the table scrolls in a box of its own, and draws only what is in view. */
const TALL = 120;

interface Place {
  row: number;
  column: number;
}

/** A decision table as a sheet: arrow keys, type to write, Enter to go on, paste from a spreadsheet. */
export function TableSheet({
  view,
  findings,
  editable,
  trace,
  chosenRow,
  onEdit,
  onPaste,
}: {
  view: TableView;
  findings: TableFindings | undefined;
  editable: boolean;
  trace: MatchTrace[] | undefined;
  chosenRow: string | null;
  /** Gives nothing when the edit was refused. */
  onEdit: (edit: TableEdit) => Promise<unknown>;
  onPaste: (place: { row: string; column: number }, sheet: string) => void;
}) {
  const [at, setAt] = useState<Place>({ row: 0, column: 0 });
  const [editing, setEditing] = useState<{ place: Place; text: string } | null>(null);
  /** What was typed and is not answered yet, by row and column: it is shown at once. */
  const [pending, setPending] = useState<ReadonlyMap<string, string>>(new Map());
  const box = useRef<HTMLDivElement>(null);
  const wantsFocus = useRef(false);
  // Keys may come faster than the focus can follow; they go on from where the last one led.
  const now = useRef<Place>(at);
  const tall = view.rows.length > TALL;
  const nColumns = view.columns.length + 1;
  const wrong = useMemo(() => wrongCells(findings), [findings]);
  const hits = useMemo(
    () => new Map((trace ?? []).filter((t) => t.table === view.document).map((t) => [t.row, t])),
    [trace, view.document],
  );
  const windowed = useVirtualizer({
    count: view.rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 12,
    scrollPaddingStart: ROW_HEIGHT,
    scrollPaddingEnd: ROW_HEIGHT * 2,
    enabled: tall,
  });
  const inView = windowed.getVirtualItems();
  const first = tall ? (inView[0]?.index ?? 0) : 0;
  const last = tall ? (inView.at(-1)?.index ?? -1) + 1 : view.rows.length;

  // What was asked to have the focus may be drawn only with the next view; by then somebody may have gone
  // on to something outside the sheet, and stays there.
  useLayoutEffect(() => {
    if (!wantsFocus.current || editing) return;
    const cell = box.current?.querySelector<HTMLElement>(`[data-place="${at.row}-${at.column}"]`);
    if (!cell) return;
    wantsFocus.current = false;
    if (focusIsLost() || box.current?.contains(document.activeElement)) cell.focus();
  });

  // Rows that move take the focus along with them; it belongs to the place.
  const keepPlace = useEffectEvent((_: RowView[]) => {
    const active = document.activeElement;
    if (editing || !(active instanceof HTMLElement) || !box.current?.contains(active)) return;
    if (active.dataset.place && active.dataset.place !== `${at.row}-${at.column}`)
      box.current.querySelector<HTMLElement>(`[data-place="${at.row}-${at.column}"]`)?.focus();
  });
  useEffect(() => keepPlace(view.rows), [view.rows]);

  const show = useEffectEvent((row: number) => {
    if (tall) windowed.scrollToIndex(row, { align: "center" });
    else box.current?.querySelector(`[data-row="${chosenRow}"]`)?.scrollIntoView({ block: "center" });
  });
  useEffect(() => {
    const row = view.rows.findIndex((r) => r.id === chosenRow);
    if (row >= 0) show(row);
  }, [chosenRow, view.rows]);

  function go(place: Place) {
    const row = Math.max(0, Math.min(view.rows.length - 1, place.row));
    const column = Math.max(0, Math.min(nColumns - 1, place.column));
    wantsFocus.current = true;
    now.current = { row, column };
    setAt(now.current);
    if (tall) windowed.scrollToIndex(row);
  }

  /** What a cell says: what was typed last, though it may not be answered yet. */
  function textAt(place: Place): string {
    const row = view.rows[place.row];
    const typed = row && pending.get(`${row.id} ${place.column}`);
    return typed ?? textOf(row, place.column, view.columns.length);
  }

  function write(place: Place, text: string) {
    const row = view.rows[place.row];
    if (!row || text.trim() === textAt(place).trim()) return;
    const edit: TableEdit = {
      kind: "set texts",
      row: row.id,
      column: place.column,
      texts: [[text]],
      sheet: "",
      skip: false,
    };
    const key = `${row.id} ${place.column}`;
    setPending((held) => new Map(held).set(key, text));
    void onEdit(edit).then((saved) => {
      setPending((held) => {
        const rest = new Map(held);
        if (rest.get(key) === text) rest.delete(key);
        return rest;
      });
      // What cannot be read is told of, and stands in its cell again to be mended.
      if (!saved) setEditing({ place, text });
    });
  }

  function onKey(event: KeyboardEvent, place: Place) {
    const row = view.rows[place.row];
    const move = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
    if (!row) return;
    if (event.key === "Enter" && event.ctrlKey && editable) {
      void onEdit({ kind: "add row", after: row.id, copy_of: null });
      go({ row: place.row, column: 0 });
      now.current = { row: place.row + 1, column: 0 };
      setAt(now.current);
    } else if (event.altKey && move?.[0] && editable) {
      void onEdit({ kind: "move row", row: row.id, direction: move[0] < 0 ? "up" : "down" });
      go({ row: place.row + move[0], column: place.column });
    } else if (move && !event.altKey) {
      go({ row: now.current.row + (move[0] ?? 0), column: now.current.column + (move[1] ?? 0) });
    } else if (event.key === "Home" || event.key === "End") {
      go({ row: place.row, column: event.key === "Home" ? 0 : nColumns - 1 });
    } else if (!editable) {
      return;
    } else if (event.key === "Enter" || event.key === "F2") {
      setEditing({ place, text: textAt(place) });
    } else if (event.key === "Delete" || event.key === "Backspace") {
      write(place, "");
    } else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey) {
      // A letter begins the cell anew; the sheet's own keys work where no cell has the focus.
      setEditing({ place, text: event.key });
    } else {
      return;
    }
    event.preventDefault();
    event.stopPropagation();
  }

  function pasted(event: ClipboardEvent, place: Place) {
    const row = view.rows[place.row];
    if (!editable || !row) return;
    event.preventDefault();
    onPaste({ row: row.id, column: place.column }, event.clipboardData.getData("text/plain"));
  }

  return (
    <div ref={box} className={tall ? "cells-box tall" : "cells-box"}>
      <table className="cells" aria-label={view.content.title} aria-rowcount={view.rows.length + 1}>
        <thead>
          <tr>
            <th aria-label="Row number" />
            {view.columns.map((c) => (
              <th key={c.heading}>
                {c.heading.charAt(0).toUpperCase() + c.heading.slice(1)}
                {editable && (
                  <ActionIcon
                    variant="subtle"
                    color="slate"
                    size={24}
                    aria-label={`Remove the column ${c.heading}`}
                    onClick={() => onEdit({ kind: "remove column", key: c.key })}
                  >
                    <IconX size={12} />
                  </ActionIcon>
                )}
              </th>
            ))}
            <th>Puts on the order</th>
            <th className="num" title={findings && `Of ${count(findings.n_orders, "past order")}`}>
              Orders
            </th>
            {editable && <th className="row-acts" aria-label="What to do with the row" />}
          </tr>
        </thead>
        <tbody>
          {first > 0 && <tr style={{ height: first * ROW_HEIGHT }} />}
          {view.rows.slice(first, last).map((row, i) => {
            const r = first + i;
            const hit = hits.get(row.id);
            return (
              <tr
                key={row.id}
                data-row={row.id}
                aria-rowindex={r + 2}
                className={hit?.matched ? "meets" : row.id === chosenRow ? "here" : undefined}
              >
                <td className="row-number mono">{r + 1}</td>
                {Array.from({ length: nColumns }, (_, c) => {
                  const place = { row: r, column: c };
                  const heading = view.columns[c]?.heading ?? "documents";
                  const text = textOf(row, c, view.columns.length);
                  const open = editing?.place.row === r && editing.place.column === c;
                  const problem = wrong.get(`${row.id} ${view.columns[c]?.key ?? "documents"}`);
                  const typed = pending.get(`${row.id} ${c}`);
                  return (
                    <td
                      key={heading}
                      className={
                        [
                          !text && "any",
                          problem && "wrong",
                          hit && !hit.matched && hit.misses === 1 && hit.cells[c]?.met === false && "missed",
                        ]
                          .filter(Boolean)
                          .join(" ") || undefined
                      }
                    >
                      {open ? (
                        <CellEditor
                          label={`Row ${r + 1}, ${heading}`}
                          kind={view.columns[c]?.column.kind}
                          options={view.columns[c]?.options ?? view.documents.map((d) => d.title)}
                          text={editing.text}
                          onCancel={() => {
                            setEditing(null);
                            go(place);
                          }}
                          onSave={(value, then) => {
                            setEditing(null);
                            write(place, value);
                            if (then === "down") go({ row: r + 1, column: c });
                            if (then === "right") go({ row: r, column: c + 1 });
                            if (then === "left") go({ row: r, column: c - 1 });
                          }}
                        />
                      ) : (
                        <button
                          type="button"
                          className="cell"
                          data-pending={typed === undefined ? undefined : "yes"}
                          data-place={`${r}-${c}`}
                          tabIndex={at.row === r && at.column === c ? 0 : -1}
                          title={problem ?? (hit && !hit.matched ? hit.sentence : text || undefined)}
                          aria-label={`Row ${r + 1}, ${heading}: ${typed ?? shownText(row, c, view.columns.length)}`}
                          onFocus={() => {
                            if (wantsFocus.current) return;
                            now.current = place;
                            setAt(place);
                          }}
                          onDoubleClick={() => editable && setEditing({ place, text: textAt(place) })}
                          onKeyDown={(e) => onKey(e, place)}
                          onPaste={(e) => pasted(e, place)}
                          onCopy={(e) => {
                            e.preventDefault();
                            e.clipboardData.setData("text/plain", textAt(place));
                          }}
                        >
                          {typed ?? shownText(row, c, view.columns.length)}
                        </button>
                      )}
                    </td>
                  );
                })}
                <td className="num plain mono">{findings && (findings.n_met[row.id] ?? 0)}</td>
                {editable && (
                  <td className="row-acts">
                    {(!tall || at.row === r) && (
                      <RowMenu
                        row={row}
                        number={r + 1}
                        onEdit={onEdit}
                        onEdited={() => go({ row: r + 1, column: 0 })}
                      />
                    )}
                  </td>
                )}
              </tr>
            );
          })}
          {last < view.rows.length && <tr style={{ height: (view.rows.length - last) * ROW_HEIGHT }} />}
        </tbody>
      </table>
    </div>
  );
}

function RowMenu({
  row,
  number,
  onEdit,
  onEdited,
}: {
  row: RowView;
  number: number;
  onEdit: (edit: TableEdit) => void;
  onEdited: () => void;
}) {
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <ActionIcon variant="subtle" color="slate" size={26} aria-label={`What to do with row ${number}`}>
          <IconDots size={15} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item
          onClick={() => {
            onEdit({ kind: "add row", after: row.id, copy_of: null });
            onEdited();
          }}
        >
          Row below
        </Menu.Item>
        <Menu.Item onClick={() => onEdit({ kind: "add row", after: row.id, copy_of: row.id })}>
          Copy of it below
        </Menu.Item>
        <Menu.Item onClick={() => onEdit({ kind: "move row", row: row.id, direction: "up" })}>
          Up, Alt+↑
        </Menu.Item>
        <Menu.Item onClick={() => onEdit({ kind: "move row", row: row.id, direction: "down" })}>
          Down, Alt+↓
        </Menu.Item>
        <Menu.Item color="bad" onClick={() => onEdit({ kind: "remove rows", rows: [row.id] })}>
          Remove row {number}
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

function textOf(row: RowView | undefined, column: number, nColumns: number): string {
  if (!row) return "";
  return column < nColumns ? (row.texts[column] ?? "") : row.documents.map((d) => d.document).join(", ");
}

/** What a cell shows: documents by their titles, and "any" where nothing is asked. */
function shownText(row: RowView, column: number, nColumns: number): string {
  if (column < nColumns) return row.texts[column] || "any";
  return row.documents.map((d) => d.title).join(", ") || "nothing yet";
}

/** What is wrong in which cell, by row and column. */
function wrongCells(findings: TableFindings | undefined): Map<string, string> {
  const out = new Map<string, string>();
  for (const { row, problem } of findings?.problems ?? []) {
    const found = /^\/rows\/\d+\/(?:cells\/(.+)|documents)$/.exec(problem.path);
    if (found && row) {
      const key = found[1]?.replaceAll("~1", "/").replaceAll("~0", "~") ?? "documents";
      out.set(`${row} ${key}`, `${problem.message} ${problem.hint}`.trim());
    }
  }
  return out;
}
