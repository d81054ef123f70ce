import type { ToCarry as Load } from "../api/types";
import { count, number } from "../ui/format";
import { useToCarry } from "./use-lists";
import "./pocket.css";

/** What to carry for the orders on the phone: of parts and tools what the van lacks first, then the rest. */
export function ToCarry({ person }: { person: string }) {
  const found = useToCarry(person).data;
  if (!found || found.parts.length + found.tools.length === 0) return null;
  const kinds = [
    {
      word: "part",
      all: found.parts.map((one) => ({
        ...one,
        code: one.part,
        unit: one.unit === "each" ? "" : ` ${one.unit}`,
      })),
    },
    { word: "tool", all: found.tools.map((one) => ({ ...one, code: one.tool, unit: "" })) },
  ].filter(({ all }) => all.length > 0);
  const lacks = ({ all }: (typeof kinds)[number]) => all.some((one) => one.short > 0);
  return (
    <details className="to-carry" open={kinds.some(lacks)}>
      <summary>What to carry: {kinds.map(({ word, all }) => told(word, all)).join("; ")}</summary>
      {kinds
        .sort((one, other) => Number(lacks(other)) - Number(lacks(one)))
        .map(({ word, all }) => (
          <section key={word}>
            <h2>{word === "part" ? "Parts" : "Tools"}</h2>
            <ul>
              {all.map((one) => (
                <li key={one.code} data-short={one.short > 0 || undefined}>
                  <b>{one.name}</b>
                  <span>{amounts(one, one.unit)}</span>
                  <small>{one.orders.join(", ")}</small>
                </li>
              ))}
            </ul>
          </section>
        ))}
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
