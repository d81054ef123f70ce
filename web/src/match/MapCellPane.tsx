import { Button, Select } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { useMapCell } from "../api/queries";
import type { Coverage } from "../api/types";
import { count } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import type { MapChoice } from "./CoverageMap";

/** One cell of the map opened: its rows, its orders, and a new row for it. */
export function MapCellPane({
  across,
  cell,
  words,
  draft,
  etag,
  documents,
  canWrite,
  onWrite,
  byHand,
}: {
  across: "symptom" | "incident type";
  cell: MapChoice;
  words: string;
  draft: string | null;
  etag: string;
  documents: { document: string; title: string }[];
  canWrite: boolean;
  onWrite: (document: string) => void;
  byHand: Coverage["by_hand"];
}) {
  const page = useMapCell(across, cell, draft, etag);
  const [document, setDocument] = useState<string | null>(null);
  const hinted = byHand.filter(
    (b) => across === "symptom" && b.equipment === cell.equipment && b.symptom === cell.code,
  );
  return (
    <section className="note slate" aria-label={`Cell: ${words}`}>
      <h2>{words}</h2>
      <Trouble error={page.error} />
      {page.data && (
        <>
          {page.data.rows.length === 0 ? (
            <p className="soft">No row says what to do here; it gets what every order gets.</p>
          ) : (
            <ul className="plain-list">
              {page.data.rows.map((row) => (
                <li key={`${row.table}${row.row}`}>
                  {row.number > 0 ? (
                    <Link className="mono" to={`/match/tables/${row.table}?row=${row.row}`}>
                      {row.table} row {row.number}
                    </Link>
                  ) : (
                    <span className="mono">{row.table}</span>
                  )}{" "}
                  {row.sentence}
                </li>
              ))}
            </ul>
          )}
          {hinted.map((b) => (
            <p key={`${b.act}${b.document}`}>
              By hand, {b.title} was {b.act} on {b.orders.length} of {count(b.n_of, "order")}: “{b.reasons[0]}
              ”
            </p>
          ))}
          <p className="soft near">
            {page.data.n_orders === 0
              ? "No order of this kind came in."
              : `${count(page.data.n_orders, "order")} came in, the latest first:`}
          </p>
          <ul className="plain-list" style={{ maxHeight: 190, overflowY: "auto" }}>
            {page.data.orders.map((o) => (
              <li key={o.order}>
                <Link to={`/run/${o.order}`}>{o.order}</Link> {o.asset}, {o.symptom.toLowerCase()}
                {o.is_open && <b> open</b>}
              </li>
            ))}
          </ul>
        </>
      )}
      {canWrite && (
        <div className="relation-new">
          <Select
            aria-label="What the new row puts on the order"
            placeholder="Put on the order…"
            searchable
            w={260}
            data={documents.map((d) => ({ value: d.document, label: `${d.title}, ${d.document}` }))}
            value={document}
            onChange={setDocument}
          />
          <Button disabled={!document} onClick={() => document && onWrite(document)}>
            Write a row
          </Button>
        </div>
      )}
    </section>
  );
}
