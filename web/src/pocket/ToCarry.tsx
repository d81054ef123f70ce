import type { CarriedPart } from "../api/types";
import { count, number } from "../ui/format";
import { usePartsToCarry } from "./use-lists";
import "./pocket.css";

/** What to carry for the orders on the phone: what the van lacks first, then the rest. */
export function ToCarry({ person }: { person: string }) {
  const found = usePartsToCarry(person);
  const parts = found.data ?? [];
  if (parts.length === 0) return null;
  const short = parts.filter((part) => part.short > 0);
  const perhaps = parts.filter((part) => part.short === 0 && part.perhaps_short > 0);
  const said = [
    short.length > 0 && `${count(short.length, "part")} short`,
    perhaps.length > 0 && `${perhaps.length} perhaps short`,
  ].filter(Boolean);
  return (
    <details className="to-carry" open={short.length > 0}>
      <summary>
        What to carry: {count(parts.length, "part")}
        {said.length > 0 ? `, ${said.join(", ")}` : ", all in the van"}
      </summary>
      <ul>
        {parts.map((part) => (
          <li key={part.part} data-short={part.short > 0 || undefined}>
            <b>{part.name}</b>
            <span>{amounts(part)}</span>
            <small>{part.orders.join(", ")}</small>
          </li>
        ))}
      </ul>
    </details>
  );
}

function amounts(part: CarriedPart): string {
  const unit = part.unit === "each" ? "" : ` ${part.unit}`;
  const amount = (n: number) => `${number(n)}${unit}`;
  const wanted = [
    part.wanted > 0 && `${amount(part.wanted)} needed`,
    part.perhaps > 0 && `${amount(part.perhaps)} perhaps`,
  ].filter(Boolean);
  const missing =
    part.short > 0
      ? `, ${amount(part.short)} short`
      : part.perhaps_short > 0
        ? `, perhaps ${amount(part.perhaps_short)} short`
        : "";
  return `${wanted.join(", ")}; ${amount(part.in_van)} in the van${missing}`;
}
