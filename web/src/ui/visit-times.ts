import type { Job } from "../api/types";

type Visit = Job["visits"][number];
export type TimeOfVisit = "headed out" | "arrived" | "left";

const TIMES = [
  ["headed out", (visit: Visit) => visit.headed_out_at],
  ["arrived", (visit: Visit) => visit.arrived_at],
  ["left", (visit: Visit) => visit.left_at],
] as const;

interface RecordedTime {
  /** Tells it from the others in a list to choose from. */
  value: string;
  label: string;
  visit: number;
  time: TimeOfVisit;
  at: string;
}

/** The times that were recorded of visits, which may be corrected; visits count from 1. */
export function recordedTimes(visits: readonly Visit[]): RecordedTime[] {
  return visits.flatMap((visit, n) =>
    TIMES.flatMap(([time, of]) => {
      const at = of(visit);
      return at
        ? [{ value: `${n + 1} ${time}`, label: `Visit ${n + 1}: ${time}`, visit: n + 1, time, at }]
        : [];
    }),
  );
}

/** An instant as the field for a day and time wants it, by the device's own clock. */
export function localInput(instant: string): string {
  const date = new Date(instant);
  return new Date(date.getTime() - date.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}
