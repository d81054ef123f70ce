/** Entries of a tree from the top down, each with how deep it stands; what hangs in a loop comes last. */
export function treeOrder<T>(
  entries: T[],
  codeOf: (entry: T) => string,
  parentOf: (entry: T) => string | null,
): { entry: T; depth: number }[] {
  const known = new Set(entries.map(codeOf));
  const below = new Map<string | null, T[]>();
  for (const entry of entries) {
    const parent = parentOf(entry);
    const key = parent !== null && known.has(parent) ? parent : null;
    below.set(key, [...(below.get(key) ?? []), entry]);
  }
  const out: { entry: T; depth: number }[] = [];
  const walk = (key: string | null, depth: number) => {
    for (const entry of below.get(key) ?? []) {
      out.push({ entry, depth });
      walk(codeOf(entry), depth + 1);
    }
  };
  walk(null, 0);
  const shown = new Set(out.map((o) => codeOf(o.entry)));
  return [...out, ...entries.filter((e) => !shown.has(codeOf(e))).map((entry) => ({ entry, depth: 0 }))];
}
