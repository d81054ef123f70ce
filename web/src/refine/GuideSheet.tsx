import { TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import type { GuideFigures, GuideView } from "../api/types";
import { percent } from "../ui/format";
import { Cell, MinutesCell } from "./GuideCells";
import { type ChangeGuide, Heading, LinkField, RowHead, RowMenu } from "./GuideRows";
import {
  type CellText,
  isNoShare,
  moveEntry,
  type RowKind,
  removeEntry,
  setCells,
  setChance,
  setRow,
  shareOf,
} from "./guide-patches";
import "./guide.css";

interface SheetProps {
  view: GuideView;
  figures: GuideFigures | null | undefined;
  editable: boolean;
  change: ChangeGuide;
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
