import type { ListName } from "../api/types";
import { dayYear } from "../ui/format";
import type { Choices, ListField } from "./list-columns";

export type Entry = Record<string, unknown>;

/** The entries a field may choose from. */
export function choices(of: keyof Choices, catalogue: Choices): { value: string; label: string }[] {
  const entries = catalogue[of] as { code: string; name?: string; label?: string }[];
  return entries.map((e) => ({ value: e.code, label: e.name ?? e.label ?? e.code }));
}

/** A value of an entry as the table shows it. */
export function textOf(value: unknown, field: ListField, catalogue: Choices): string {
  const one = (code: unknown) =>
    field.of
      ? (choices(field.of, catalogue).find((c) => c.value === code)?.label ?? String(code ?? ""))
      : String(code ?? "");
  if (field.as === "recorded") {
    const held = (value ?? {}) as Record<string, unknown>;
    return catalogue.fields
      .filter((f) => f.code in held)
      .map((f) => `${f.name}: ${held[f.code]}${f.unit ? ` ${f.unit}` : ""}`)
      .join("; ");
  }
  if (field.as === "day" && typeof value === "string") return dayYear(value);
  if (Array.isArray(value)) return value.map(one).join(", ");
  if (typeof value === "boolean") return value ? "yes" : "";
  return value === null || value === undefined ? "" : one(value);
}

/** What an entry is known by in its list. */
export function codeOf(name: ListName, entry: Entry): string {
  if (name === "roster") return `${entry.technician} ${entry.skill}`;
  if (name === "van_stock") return `${entry.technician} ${entry.part}`;
  if (name === "van_tools") return `${entry.technician} ${entry.tool}`;
  return String(entry.code);
}
