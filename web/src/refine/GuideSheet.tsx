import { ActionIcon, Menu, Select, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { IconDots } from "@tabler/icons-react";
import type { ClipboardEvent, KeyboardEvent, ReactNode } from "react";
import { useState } from "react";
import type { GuideFigures, GuideView, Learned } from "../api/types";
import { wasRefused } from "../draft/use-entry";
import { count, number, percent } from "../ui/format";
import {
  type CellText,
  type GuideChange,
  isNoShare,
  moveEntry,
  type RowKind,
  removeEntry,
  setCells,
  setChance,
  setRow,
  shareOf,
} from "./guide-patches";

export interface SheetProps {
  view: GuideView;
  figures: GuideFigures | null | undefined;
  editable: boolean;
  change: (change: GuideChange) => Promise<unknown>;
  onSay: (check: string, value: boolean | null) => void;
}

/** Causes across, checks and remedies down; what was typed with what closed jobs show under it. */
export function GuideSheet({ view, figures, editable, change, onSay }: SheetProps) {
  const guide = view.content;
  const causes = guide.causes.map((c) => c.cause);
  const most = Math.max(0.01, ...(figures?.checks ?? []).map((c) => c.bits));
  const columns = causes.length + 3;
  // A figure learned from an earlier version of the guide may have fewer rows or causes.
  const causeFigures = new Map(figures?.causes.map((c, i) => [c.cause, { ...c, at: i }]));
  const checkFigures = new Map(figures?.checks.map((c) => [c.check, c]));
  const remedyFigures = new Map(figures?.remedies.map((r) => [r.remedy, r]));
  const at = (cause: string) => causeFigures.get(cause)?.at ?? -1;

  /** A sheet that was pasted, from this cell to the right and down over checks, then remedies. */
  function paste(kind: RowKind, row: string, cause: string, sheet: string) {
    const rows = [
      ...guide.checks.map((c) => ({ kind: "checks" as const, row: c.id })),
      ...guide.remedies.map((r) => ({ kind: "remedies" as const, row: r.id })),
    ];
    const top = rows.findIndex((r) => r.kind === kind && r.row === row);
    const left = causes.indexOf(cause);
    const cells: CellText[] = [];
    sheet
      .replace(/\r?\n$/, "")
      .split(/\r?\n/)
      .forEach((line, down) => {
        line.split("\t").forEach((text, right) => {
          const target = rows[top + down];
          const under = causes[left + right];
          if (target && under) cells.push({ ...target, cause: under, text });
        });
      });
    const wrong = cells.filter(isNoShare);
    if (wrong.length > 0) {
      const words = wrong.slice(0, 3).map((cell) => `“${cell.text}”`);
      notifications.show({
        color: "bad",
        message: `Nothing was pasted: ${words.join(", ")} ${wrong.length === 1 ? "is no percentage" : "are no percentages"}.`,
      });
      return;
    }
    return change(setCells(cells));
  }

  return (
    <div className="guide-scroll">
      <table className="rows guide-table" aria-label="Fault guide">
        <thead>
          <tr>
            <th>Cause</th>
            <th className="num">min</th>
            <th>sorts out</th>
            {causes.map((cause) => (
              <th key={cause} className="num" scope="col">
                {view.labels[cause]}
                {editable && (
                  <RowMenu
                    label={view.labels[cause] ?? cause}
                    onUp={() => change(moveEntry("causes", cause, -1))}
                    onDown={() => change(moveEntry("causes", cause, 1))}
                    onRemove={() => change(removeEntry("causes", cause))}
                    sideways
                  />
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <tr>
            <td>How often it is the cause</td>
            <td />
            <td />
            {guide.causes.map((cause) => (
              <td key={cause.cause} className="num">
                <Cell
                  label={`How often ${view.labels[cause.cause]}`}
                  value={cause.chance}
                  editable={editable}
                  learned={causeFigures.get(cause.cause)?.learned}
                  act="repair"
                  onSave={(text) => change(setChance(cause.cause, shareOf(text) ?? 0))}
                />
              </td>
            ))}
          </tr>
          {figures && (
            <tr>
              <td>
                <span className="soft">After what is marked below</span>
              </td>
              <td />
              <td />
              {causes.map((cause) => {
                const now = causeFigures.get(cause)?.now ?? 0;
                return (
                  <td key={cause} className="num">
                    <div className="guide-now">
                      <i style={{ width: `${now * 100}%` }} />
                      <b className="mono">{percent(now)} %</b>
                    </div>
                  </td>
                );
              })}
            </tr>
          )}
          <Heading columns={columns} words="Checks: how often each is so, with each cause" />
          {guide.checks.map((check) => {
            const found = checkFigures.get(check.id);
            return (
              <tr key={check.id}>
                <td>
                  <RowHead
                    words={view.checks[check.id] ?? ""}
                    link={check.look}
                    kind="checks"
                    id={check.id}
                    view={view}
                    editable={editable}
                    change={change}
                  >
                    <TextInput
                      label="In other words"
                      placeholder={
                        view.looks.find((look) => look.link === check.look)?.words ?? "What to look at"
                      }
                      defaultValue={check.label}
                      onBlur={(e) => {
                        const text = e.currentTarget.value.trim();
                        if (text !== check.label) void change(setRow("checks", check.id, "label", text));
                      }}
                    />
                    <LinkField
                      label="The question that asks it"
                      links={view.looks}
                      value={check.look ?? ""}
                      onSet={(link) => change(setRow("checks", check.id, "look", link))}
                    />
                  </RowHead>
                  {found && (
                    <div className="guide-say">
                      {([true, false] as const).map((value) => (
                        <button
                          key={String(value)}
                          type="button"
                          aria-pressed={found.said === value}
                          aria-label={`${value ? "So" : "Not so"}: ${view.checks[check.id]}`}
                          onClick={() => onSay(check.id, found.said === value ? null : value)}
                        >
                          {value ? "So" : "Not so"}
                        </button>
                      ))}
                    </div>
                  )}
                </td>
                <td className="num">
                  <MinutesCell
                    label={`Minutes of ${view.checks[check.id]}`}
                    own={check.minutes ?? null}
                    shown={view.check_minutes[check.id] ?? 0}
                    editable={editable}
                    onSave={(value) => change(setRow("checks", check.id, "minutes", value))}
                  />
                </td>
                <td>
                  {found && (
                    <>
                      <span className="guide-bits">
                        <i style={{ width: `${(100 * found.bits) / most}%` }} />
                      </span>
                      <div className="mono soft">{found.bits.toFixed(2)} bits</div>
                    </>
                  )}
                </td>
                {causes.map((cause) => (
                  <td key={cause} className="num">
                    <Cell
                      label={`${view.checks[check.id]}, with ${view.labels[cause]}`}
                      value={check.yes?.[cause] ?? null}
                      editable={editable}
                      learned={found?.cells[at(cause)]}
                      act="check"
                      onSave={(text) => change(setCells([{ kind: "checks", row: check.id, cause, text }]))}
                      onPaste={(sheet) => paste("checks", check.id, cause, sheet)}
                    />
                  </td>
                ))}
              </tr>
            );
          })}
          <Heading columns={columns} words="Remedies: how often each puts it right" />
          {guide.remedies.map((remedy) => {
            const found = remedyFigures.get(remedy.id);
            const words = view.labels[remedy.remedy] ?? remedy.remedy;
            return (
              <tr key={remedy.id}>
                <td>
                  <RowHead
                    words={words}
                    link={remedy.step}
                    kind="remedies"
                    id={remedy.id}
                    view={view}
                    editable={editable}
                    change={change}
                  >
                    <LinkField
                      label="The step that does it"
                      links={view.steps}
                      value={remedy.step ?? ""}
                      onSet={(link) => change(setRow("remedies", remedy.id, "step", link))}
                    />
                    <MinutesCell
                      label="What its parts cost, in minutes"
                      shownLabel
                      own={remedy.cost_minutes ?? 0}
                      shown={remedy.cost_minutes ?? 0}
                      editable
                      onSave={(value) => change(setRow("remedies", remedy.id, "cost_minutes", value ?? 0))}
                    />
                  </RowHead>
                </td>
                <td className="num">
                  <MinutesCell
                    label={`Minutes of ${words}`}
                    own={remedy.minutes ?? null}
                    shown={view.remedy_minutes[remedy.id] ?? 0}
                    editable={editable}
                    onSave={(value) => change(setRow("remedies", remedy.id, "minutes", value))}
                  />
                </td>
                <td />
                {causes.map((cause) => (
                  <td key={cause} className="num">
                    <Cell
                      label={`${words}, with ${view.labels[cause]}`}
                      value={remedy.fixes?.[cause] ?? null}
                      editable={editable}
                      learned={found?.cells[at(cause)] ?? undefined}
                      act="repair"
                      onSave={(text) => change(setCells([{ kind: "remedies", row: remedy.id, cause, text }]))}
                      onPaste={(sheet) => paste("remedies", remedy.id, cause, sheet)}
                    />
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

function Heading({ columns, words }: { columns: number; words: string }) {
  return (
    <tr className="guide-heading">
      <th colSpan={columns} scope="rowgroup">
        {words}
      </th>
    </tr>
  );
}

/** What a row is about, with what it is linked to, and behind a button what may be done with it. */
function RowHead({
  words,
  link,
  kind,
  id,
  view,
  editable,
  change,
  children,
}: {
  words: string;
  link: string | undefined;
  kind: RowKind;
  id: string;
  view: GuideView;
  editable: boolean;
  change: SheetProps["change"];
  children: ReactNode;
}) {
  const known = [...view.looks, ...view.steps].some((offered) => offered.link === link);
  return (
    <div className="guide-row-head">
      <span>
        {words}
        <small className="mono soft">
          {link ? (known ? link.split(":")[0] : `${link} is gone`) : "linked to no plan"}
        </small>
      </span>
      {editable && (
        <RowMenu
          label={words}
          onUp={() => change(moveEntry(kind, id, -1))}
          onDown={() => change(moveEntry(kind, id, 1))}
          onRemove={() => change(removeEntry(kind, id))}
        >
          <div className="guide-row-fields">{children}</div>
        </RowMenu>
      )}
    </div>
  );
}

function RowMenu({
  label,
  sideways = false,
  onUp,
  onDown,
  onRemove,
  children,
}: {
  label: string;
  sideways?: boolean;
  onUp: () => unknown;
  onDown: () => unknown;
  onRemove: () => unknown;
  children?: ReactNode;
}) {
  return (
    <Menu position="bottom-start" width={children ? 320 : 180} closeOnItemClick={false}>
      <Menu.Target>
        <ActionIcon variant="subtle" color="slate" size="sm" aria-label={`Change ${label}`}>
          <IconDots size={15} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        {children}
        <Menu.Item onClick={onUp}>{sideways ? "Move left" : "Move up"}</Menu.Item>
        <Menu.Item onClick={onDown}>{sideways ? "Move right" : "Move down"}</Menu.Item>
        <Menu.Item color="bad" closeMenuOnClick onClick={onRemove}>
          Take it out
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

function LinkField({
  label,
  links,
  value,
  onSet,
}: {
  label: string;
  links: GuideView["looks"];
  value: string;
  onSet: (link: string) => unknown;
}) {
  return (
    <Select
      label={label}
      searchable
      clearable
      placeholder="No plan asks it"
      comboboxProps={{ withinPortal: false }}
      data={links.map((offered) => ({
        value: offered.link,
        label: `${offered.words}, ${offered.link.split(":")[0]}`,
      }))}
      value={value || null}
      onChange={(link) => onSet(link ?? "")}
    />
  );
}

/** One figure: typed in percent, with what the closed jobs make of it under it. Arrow keys move as on a sheet. */
function Cell({
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
function MinutesCell({
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
