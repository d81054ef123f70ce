import { Select, TextInput } from "@mantine/core";
import { useState } from "react";
import { dayTime, minutes, timeAfter } from "../ui/format";
import { localInput, recordedTimes } from "../ui/visit-times";
import type { BesideProps } from "./beside-props";
import { now } from "./outbox";

/** The times of each visit as they were recorded, and one of them put right with a reason. */
export function VisitTimes({ page, record, onDone }: BesideProps) {
  const { visits } = page.job;
  const told = recordedTimes(visits);
  const [which, setWhich] = useState<string | null>(null);
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");

  function choose(value: string | null) {
    setWhich(value);
    const chosen = told.find((time) => time.value === value);
    setTo(chosen ? localInput(chosen.at) : "");
  }

  async function correct() {
    const chosen = told.find((time) => time.value === which);
    if (!chosen) return;
    const event = {
      kind: "time corrected",
      at: now(),
      visit: chosen.visit,
      time: chosen.time,
      to: new Date(to).toISOString(),
      reason: reason.trim(),
      by_office: false,
    } as const;
    if (await record(event)) onDone();
  }

  return (
    <>
      {visits.map((visit, n) => (
        <div key={visit.headed_out_at} className="beside-entry">
          <p>
            Visit {n + 1}: headed out {dayTime(visit.headed_out_at)}
            {visit.arrived_at && `, arrived ${timeAfter(visit.arrived_at, visit.headed_out_at)}`}
            {visit.left_at && `, left ${timeAfter(visit.left_at, visit.arrived_at ?? visit.headed_out_at)}`}.
          </p>
          {visit.breaks.map((one) => (
            <p key={one.began_at}>
              Break from {dayTime(one.began_at)}
              {one.ended_at
                ? `, ${minutes((Date.parse(one.ended_at) - Date.parse(one.began_at)) / 60_000)}`
                : ", still going on"}
              .
            </p>
          ))}
          {visit.corrections.map((one) => (
            <p key={one.at}>
              {one.time} was {dayTime(one.was)}
              {one.by_office && ", corrected by the office"}: {one.reason}
            </p>
          ))}
        </div>
      ))}
      <Select label="A time to correct" size="md" data={told} value={which} onChange={choose} />
      {which && (
        <>
          <TextInput
            label="It was"
            type="datetime-local"
            size="md"
            value={to}
            onChange={(e) => setTo(e.currentTarget.value)}
          />
          <TextInput
            label="Why it is corrected"
            size="md"
            value={reason}
            onChange={(e) => setReason(e.currentTarget.value)}
          />
          <button
            type="button"
            className="pocket-other"
            disabled={!to || !reason.trim()}
            onClick={() => void correct()}
          >
            Correct it
          </button>
        </>
      )}
    </>
  );
}
