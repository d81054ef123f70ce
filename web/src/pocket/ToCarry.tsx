import type { ToCarry as Load } from "../api/types";
import { count, number } from "../ui/format";
import { useToCarry } from "./use-lists";
import "./pocket.css";

/** What is short is named at once; more of it than this stands in the list alone. */
const MOST_NAMED = 3;

/** What to carry for the orders on the phone: what the van lacks at once, the whole list on a press. */
export function ToCarry({ person }: { person: string }) {
  const found = useToCarry(person).data;
  if (!found || found.parts.length + found.tools.length === 0) return null;
  const kinds: { word: string; all: Carried[] }[] = [
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
  const lacks = (all: Carried[]) => all.filter((one) => one.short > 0);
  return (
    <div className="to-carry">
      <CarriedList
        label="Short in your van"
        all={kinds.flatMap(({ all }) => lacks(all)).slice(0, MOST_NAMED)}
      />
      <details>
        <summary>What to carry: {kinds.map(({ word, all }) => told(word, all)).join("; ")}</summary>
        {kinds
          .sort((one, other) => lacks(other.all).length - lacks(one.all).length)
          .map(({ word, all }) => (
            <CarriedList key={word} label={word === "part" ? "Parts" : "Tools"} all={all} />
          ))}
      </details>
    </div>
  );
}

interface Carried extends Omit<Load["tools"][number], "tool"> {
  code: string;
  unit: string;
}

function CarriedList({ label, all }: { label: string; all: Carried[] }) {
  if (all.length === 0) return null;
  return (
    <section>
      <h2>{label}</h2>
      <ul aria-label={label}>
        {all.map((one) => (
          <li key={one.code} data-short={one.short > 0 || undefined}>
            <b>{one.name}</b>
            <span>{amounts(one)}</span>
            <small>{one.orders.join(", ")}</small>
          </li>
        ))}
      </ul>
    </section>
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

function amounts(one: Carried): string {
  const amount = (n: number) => `${number(n)}${one.unit}`;
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
