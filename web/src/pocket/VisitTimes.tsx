import { Select, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Job } from "../api/types";
import { dayTime, minutes } from "../ui/format";
import type { BesideProps } from "./beside-props";
import { now } from "./outbox";

type Visit = Job["visits"][number];
const TIMES = [
  ["headed out", "Headed out", (visit: Visit) => visit.headed_out_at],
  ["arrived", "Arrived", (visit: Visit) => visit.arrived_at],
  ["left", "Left", (visit: Visit) => visit.left_at],
] as const;

/** The times of each visit as they were recorded, and one of them put right with a reason. */
export function VisitTimes({ page, record, onDone }: BesideProps) {
  const { visits } = page.job;
  const told = visits.flatMap((visit, n) =>
    TIMES.flatMap(([time, label, of]) => {
      const at = of(visit);
      return at ? [{ value: `${n + 1} ${time}`, label: `Visit ${n + 1}: ${label.toLowerCase()}`, at }] : [];
    }),
  );
  const [which, setWhich] = useState<string | null>(null);
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");

  function choose(value: string | null) {
    setWhich(value);
    const chosen = told.find((time) => time.value === value);
    setTo(chosen ? localInput(chosen.at) : "");
  }

  async function correct() {
    const [visit, ...time] = (which ?? "").split(" ");
    const event = {
      kind: "time corrected",
      at: now(),
      visit: Number(visit),
      time: time.join(" ") as "arrived",
      to: new Date(to).toISOString(),
      reason: reason.trim(),
    } as const;
    if (await record(event)) onDone();
  }

  return (
    <>
      {visits.map((visit, n) => (
        <div key={visit.headed_out_at} className="beside-entry">
          <p>
            Visit {n + 1}: headed out {dayTime(visit.headed_out_at)}
            {visit.arrived_at && `, arrived ${dayTime(visit.arrived_at)}`}
            {visit.left_at && `, left ${dayTime(visit.left_at)}`}.
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
              {one.time} was {dayTime(one.was)}: {one.reason}
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

/** An instant as the field for a day and time wants it, by the device's own clock. */
function localInput(at: string): string {
  const date = new Date(at);
  return new Date(date.getTime() - date.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}
