import type { ClipboardEvent, KeyboardEvent } from "react";
import { useState } from "react";
import type { Learned } from "../api/types";
import { wasRefused } from "../draft/use-entry";
import { count, number, percent } from "../ui/format";
import { isNoShare } from "./guide-patches";
import "./guide.css";

/** One figure: typed in percent, with what the closed jobs make of it under it. Arrow keys move as on a sheet. */
export function Cell({
  label,
  value,
  editable,
  learned,
  act,
  onSave,
  onPaste,
}: {
  label: string;
  value: number | null;
  editable: boolean;
  learned: Learned | undefined;
  act: "check" | "repair";
  onSave: (text: string) => Promise<unknown>;
  onPaste?: (sheet: string) => unknown;
}) {
  const shown = value === null ? "" : number(Math.round(value * 1000) / 10);
  const told = learned
    ? `learned ${percent(learned.value)} % (${percent(learned.low)}–${percent(learned.high)}), ${count(learned.n, "job")}`
    : "";
  return (
    <div className="guide-cell" data-act={act} title={told}>
      {editable ? (
        <CellInput label={label} shown={shown} onSave={onSave} onPaste={onPaste} />
      ) : (
        <span className="guide-typed">{shown === "" ? "·" : shown}</span>
      )}
      {learned && learned.n > 0 && (
        <>
          <div className="guide-chance">
            <i style={{ width: `${learned.value * 100}%` }} />
          </div>
          <small className="mono soft">
            {percent(learned.value)} %, {count(learned.n, "job")}
          </small>
        </>
      )}
    </div>
  );
}

function CellInput({
  label,
  shown,
  onSave,
  onPaste,
}: {
  label: string;
  shown: string;
  onSave: (text: string) => Promise<unknown>;
  onPaste?: ((sheet: string) => unknown) | undefined;
}) {
  // What is being typed; nothing where the cell shows what is saved.
  const [typed, setTyped] = useState<string | null>(null);
  const [refused, setRefused] = useState(false);

  async function leave() {
    if (typed === null || typed === shown) return setTyped(null);
    const was = isNoShare({ text: typed }) || (await wasRefused(onSave(typed)));
    setRefused(was);
    if (!was) setTyped(null);
  }

  function keys(event: KeyboardEvent<HTMLInputElement>) {
    const step = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      Enter: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
    }[event.key];
    const input = event.currentTarget;
    if (event.key === "Escape") setTyped(null);
    if (!step) return;
    const [down = 0, right = 0] = step;
    // Within a text the arrows move in it, as one expects.
    if (right < 0 && input.selectionStart !== 0) return;
    if (right > 0 && input.selectionEnd !== input.value.length) return;
    event.preventDefault();
    neighbour(input, down, right)?.focus();
  }

  function pasted(event: ClipboardEvent<HTMLInputElement>) {
    const text = event.clipboardData.getData("text/plain");
    if (!onPaste || !/[\t\n]/.test(text.trimEnd())) return;
    event.preventDefault();
    setTyped(null);
    onPaste(text);
  }

  return (
    <input
      className="guide-input"
      aria-label={label}
      aria-invalid={refused}
      inputMode="decimal"
      value={typed ?? shown}
      placeholder="·"
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setTyped(e.currentTarget.value)}
      onBlur={() => void leave()}
      onKeyDown={keys}
      onPaste={pasted}
    />
  );
}

/** The field so many rows down and columns to the right, past rows without one. */
function neighbour(from: HTMLInputElement, down: number, right: number): HTMLInputElement | null {
  const cell = from.closest("td");
  const row = cell?.parentElement;
  if (!cell || !row) return null;
  const at = [...row.children].indexOf(cell);
  const field = (of: Element | null | undefined, column: number) =>
    of?.children[column]?.querySelector<HTMLInputElement>("input") ?? null;
  if (right) return field(row, at + right);
  let next = down > 0 ? row.nextElementSibling : row.previousElementSibling;
  while (next && !field(next, at)) next = down > 0 ? next.nextElementSibling : next.previousElementSibling;
  return field(next, at);
}

/** Minutes: those of the linked step, unless others are typed. */
export function MinutesCell({
  label,
  shownLabel = false,
  own,
  shown,
  editable,
  onSave,
}: {
  label: string;
  shownLabel?: boolean;
  own: number | null;
  shown: number;
  editable: boolean;
  onSave: (value: number | null) => Promise<unknown>;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  if (!editable) return <span>{number(shown)}</span>;
  const saved = own === null ? "" : number(own);
  return (
    <label className="guide-minutes">
      {shownLabel && <span>{label}</span>}
      <input
        className="guide-input"
        aria-label={label}
        inputMode="decimal"
        placeholder={number(shown)}
        value={typed ?? saved}
        onChange={(e) => setTyped(e.currentTarget.value)}
        onBlur={async () => {
          if (typed === null || typed === saved) return setTyped(null);
          const value = typed.trim() === "" ? null : Number(typed.replace(",", "."));
          if (Number.isNaN(value) || (await wasRefused(onSave(value)))) return;
          setTyped(null);
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
    </label>
  );
}
