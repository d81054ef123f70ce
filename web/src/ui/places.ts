/** Where a document is opened, by its kind. */
export function placeOf({ kind, document }: { kind: string; document: string }): string {
  if (kind === "incident type") return `/author/${document}`;
  if (kind === "decision table") return `/match/tables/${document}`;
  if (kind === "list") return `/match/lists/${document}`;
  if (kind === "fault guide") return `/refine/guides/${document}`;
  return `/author/documents/${document}`;
}
