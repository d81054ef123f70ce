import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, need } from "../api/client";
import { minutes } from "../ui/format";
import { Trouble } from "../ui/Trouble";

/** From a quarter of the minutes to four times as many, on a scale of ratios. */
const place = (ratio: number) => `${50 + (50 * Math.log(ratio)) / Math.log(4)}%`;

/** How far the minutes of a check or remedy may be off before the order would begin otherwise. */
export function TurningPoints({ document, etag }: { document: string; etag: string }) {
  const [open, setOpen] = useState(false);
  const found = useQuery({
    enabled: open,
    queryKey: ["guide", document, "turns", etag],
    queryFn: () =>
      need(
        client.GET("/api/v1/documents/{document}/guide/turning-points", { params: { path: { document } } }),
      ),
  });
  return (
    <details className="guide-turns" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>What if minutes or prices are other than planned?</summary>
      <Trouble error={found.error} />
      {open && found.isPending && <p role="status">Trying other figures. This takes a moment.</p>}
      {found.data?.length === 0 && (
        <p className="soft">
          Nothing between a quarter and four times of the minutes and prices changes what comes first.
        </p>
      )}
      <ul>
        {found.data?.map((turn) => (
          <li key={`${turn.what}${turn.of}${turn.turns_at}`}>
            {turn.of === "parts" ? `If the parts of “${turn.what}” cost` : `If “${turn.what}” took`}{" "}
            {minutes(turn.turns_at)} {turn.turns_at > turn.minutes ? "or more" : "or less"} (
            {minutes(turn.minutes)} now), {turn.then === turn.what ? "it" : `“${turn.then}”`} would come
            first.
            <span className="guide-scale" aria-hidden="true">
              <i style={{ left: place(1) }} data-now />
              <i style={{ left: place(turn.turns_at / turn.minutes) }} />
            </span>
          </li>
        ))}
      </ul>
      {(found.data?.length ?? 0) > 0 && (
        <p className="soft">
          The scale goes from a quarter of a figure to four times; the middle is what it is now. What parts
          cost is told in minutes, as on the sheet. One step is looked ahead.
        </p>
      )}
    </details>
  );
}
