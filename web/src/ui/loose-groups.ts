import type { LooseLine } from "../api/types";

/** Loose records of one order by one person that were not taken in for one reason, as they were received. */
export interface LooseGroup {
  key: string;
  order: string;
  person: string;
  /** Why, without the order in front. */
  why: string;
  lines: LooseLine[];
}

/** Records that belong together: a visit is decided on as a whole. */
export function groupsOf(lines: LooseLine[]): LooseGroup[] {
  const groups = new Map<string, LooseGroup>();
  for (const line of lines) {
    const why = line.why.startsWith(`${line.order}: `) ? line.why.slice(line.order.length + 2) : line.why;
    const decided = `${line.decision} ${line.reason} ${line.decided_by_name}`;
    const key = `${line.order} ${line.person_name} ${why} ${decided}`;
    const group = groups.get(key) ?? { key, order: line.order, person: line.person_name, why, lines: [] };
    group.lines.push(line);
    groups.set(key, group);
  }
  return [...groups.values()];
}
