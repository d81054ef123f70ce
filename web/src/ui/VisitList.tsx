import type { Job } from "../api/types";
import { count, day, dayTime, time } from "./format";

/** The visits of a job one after the other, with what was corrected of their times. */
export function VisitList({ visits }: { visits: Job["visits"] }) {
  return visits.map((visit, i) => (
    <p key={visit.headed_out_at} className="near">
      {i + 1}. Headed out {dayTime(visit.headed_out_at)}
      {visit.arrived_at && `, arrived ${since(visit.headed_out_at, visit.arrived_at)}`}
      {visit.left_at && `, left ${since(visit.arrived_at ?? visit.headed_out_at, visit.left_at)}`}.{" "}
      {visit.outcome === "return needed" && `Return needed: ${visit.reason}. ${visit.note}`}
      {visit.breaks.length > 0 && ` ${count(visit.breaks.length, "break")}.`}
      {visit.corrections.map((one) => (
        <span key={one.at} className="soft">
          {" "}
          “{one.time}” was {dayTime(one.was)}, corrected{one.by_office && " by the office"}: {one.reason}.
        </span>
      ))}
    </p>
  ));
}

/** An instant after another: the day is told where it is another day. */
function since(before: string, at: string): string {
  return day(before) === day(at) ? time(at) : dayTime(at);
}
