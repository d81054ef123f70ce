import type { Part, RunsheetLine, Tool } from "../api/types";
import { number } from "./format";

/** So much of a part, in words; a code that no list knows stands for itself. */
export function partAmount(parts: Part[] | undefined, code: string, quantity: number): string {
  const part = parts?.find((one) => one.code === code);
  const unit = part && part.unit !== "each" ? part.unit : "×";
  return `${number(quantity)} ${unit} ${part?.name ?? code}`;
}

/** So many of a tool, in words; one is told by its name alone. */
export function toolAmount(tools: Tool[] | undefined, code: string, quantity: number): string {
  const name = tools?.find((one) => one.code === code)?.name ?? code;
  return quantity === 1 ? name : `${quantity} × ${name}`;
}

/** What a step takes and what it is done with, in words; empty where it is neither. */
export function needWords(
  line: Pick<RunsheetLine, "parts" | "tools">,
  lists: { parts?: Part[]; tools?: Tool[] } | undefined,
): string {
  const parts = line.parts.map((need) => partAmount(lists?.parts, need.part, need.quantity));
  // Orders taken along before there were tools have none.
  const tools = (line.tools ?? []).map((need) => toolAmount(lists?.tools, need.tool, need.quantity));
  const words = [
    parts.length > 0 && `Takes ${parts.join(", ")}.`,
    tools.length > 0 && `Done with ${tools.join(", ")}.`,
  ];
  return words.filter(Boolean).join(" ");
}
