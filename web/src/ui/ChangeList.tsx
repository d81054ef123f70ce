import { Button } from "@mantine/core";
import type { ChangeLine } from "../api/types";
import { dayTime } from "./format";

/** Who changed what, from what to what, newest first; what was done at once stands together. */
export function ChangeList({
  changes,
  empty,
  onUndo,
}: {
  changes: ChangeLine[] | undefined;
  empty: string;
  /** Takes a change back, where that can be done. */
  onUndo?: (batch: string) => void;
}) {
  if (!changes) return null;
  if (changes.length === 0) return <p className="soft">{empty}</p>;
  const batches = new Map<string, ChangeLine[]>();
  for (const change of changes) batches.set(change.batch, [...(batches.get(change.batch) ?? []), change]);
  return (
    <table className="rows changes">
      <tbody>
        {[...batches].map(([batch, lines]) => (
          <tr key={batch}>
            <td className="soft" style={{ whiteSpace: "nowrap", verticalAlign: "top" }}>
              {lines[0] && dayTime(lines[0].at)}
            </td>
            <td>
              <b>{lines[0]?.person_name}</b>
              {lines[0]?.note && <span className="soft"> ({lines[0].note})</span>}
              <ul style={{ margin: 0, paddingLeft: 16 }}>
                {lines.slice(0, SHOWN).map((line) => (
                  <li key={line.id}>
                    {line.act} <span className="mono">{line.key}</span>
                    {line.act === "changed" || line.act === "planned" || line.act === "cancelled" ? (
                      line.fields.map((field) => (
                        <div key={field.field}>
                          {field.field.replaceAll("_", " ")}: <del>{valueWords(field.before)}</del>{" "}
                          <ins>{valueWords(field.after)}</ins>
                        </div>
                      ))
                    ) : (
                      <span className="soft"> {wholeWords(line)}</span>
                    )}
                  </li>
                ))}
                {lines.length > SHOWN && <li>and {lines.length - SHOWN} more</li>}
              </ul>
            </td>
            {onUndo && (
              <td style={{ verticalAlign: "top" }}>
                {lines[0]?.note !== "import" && (
                  <Button variant="default" size="compact-sm" onClick={() => onUndo(batch)}>
                    Take back
                  </Button>
                )}
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const SHOWN = 12;

/** What was added or removed, whole: the fields that say something. */
function wholeWords(line: ChangeLine): string {
  return line.fields
    .map((field) => ({ name: field.field, words: valueWords(field.after ?? field.before) }))
    .filter(({ name, words }) => words !== "nothing" && name !== "code")
    .map(({ name, words }) => `${name.replaceAll("_", " ")} ${words}`)
    .join(", ");
}

function valueWords(value: unknown): string {
  if (value === null || value === undefined || value === "") return "nothing";
  if (Array.isArray(value)) return value.length ? value.map(valueWords).join(", ") : "nothing";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "object")
    return (
      Object.entries(value)
        .map(([key, inner]) => `${key.replaceAll("_", " ")} ${valueWords(inner)}`)
        .join(", ") || "nothing"
    );
  return String(value);
}
