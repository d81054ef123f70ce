import type { ToCarry as Load } from "../api/types";
import { count, number } from "../ui/format";
import { useToCarry } from "./use-lists";
import "./pocket.css";

/** What to carry for the orders on the phone: what the van lacks first, then the rest. */
export function ToCarry({ person }: { person: string }) {
  const found = useToCarry(person).data;
  if (!found || found.parts.length + found.tools.length === 0) return null;
  const isShort = [...found.parts, ...found.tools].some((one) => one.short > 0);
  return (
    <details className="to-carry" open={isShort}>
      <summary>
        What to carry: {[told("part", found.parts), told("tool", found.tools)].filter(Boolean).join("; ")}
      </summary>
      {found.parts.length > 0 && (
        <ul aria-label="Parts to carry">
          {found.parts.map((part) => (
            <li key={part.part} data-short={part.short > 0 || undefined}>
              <b>{part.name}</b>
              <span>{amounts(part, part.unit === "each" ? "" : ` ${part.unit}`)}</span>
              <small>{part.orders.join(", ")}</small>
            </li>
          ))}
        </ul>
      )}
      {found.tools.length > 0 && (
        <ul aria-label="Tools to carry">
          {found.tools.map((tool) => (
            <li key={tool.tool} data-short={tool.short > 0 || undefined}>
              <b>{tool.name}</b>
              <span>{amounts(tool, "")}</span>
              <small>{tool.orders.join(", ")}</small>
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}

/** How many there are of one kind, and how many of these are short. */
function told(word: string, all: { short: number; perhaps_short: number }[]): string {
  if (all.length === 0) return "";
  const short = all.filter((one) => one.short > 0).length;
  const perhaps = all.filter((one) => one.short === 0 && one.perhaps_short > 0).length;
  const said = [short > 0 && `${short} short`, perhaps > 0 && `${perhaps} perhaps short`].filter(Boolean);
  return `${count(all.length, word)}, ${said.length > 0 ? said.join(", ") : "all in the van"}`;
}

function amounts(one: Omit<Load["tools"][number], "tool">, unit: string): string {
  const amount = (n: number) => `${number(n)}${unit}`;
  const wanted = [
    one.wanted > 0 && `${amount(one.wanted)} needed`,
    one.perhaps > 0 && `${amount(one.perhaps)} perhaps`,
  ].filter(Boolean);
  const missing =
    one.short > 0
      ? `, ${amount(one.short)} short`
      : one.perhaps_short > 0
        ? `, perhaps ${amount(one.perhaps_short)} short`
        : "";
  return `${wanted.join(", ")}; ${amount(one.in_van)} in the van${missing}`;
}
