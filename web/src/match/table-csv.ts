import type { TableView } from "../api/types";

/** The table as a sheet for other programs, one row a line (RFC 4180). */
export function saveTableAsCsv(view: TableView) {
  const quote = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const lines = [
    [...view.columns.map((c) => c.heading), "documents"],
    ...view.rows.map((row) => [...row.texts, row.documents.map((d) => d.document).join("; ")]),
  ];
  const text = lines.map((line) => line.map(quote).join(",")).join("\r\n");
  const link = window.document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
  link.download = `${view.document}-${view.letter}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}
