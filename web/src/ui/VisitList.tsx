import type { Job } from "../api/types";
import { count, dayTime, timeAfter } from "./format";

/** The visits of a job one after the other, with what was corrected of their times; `arrivals` says which were far off. */
export function VisitList({ visits, arrivals }: { visits: Job["visits"]; arrivals: string[] }) {
  return visits.map((visit, i) => (
    <p key={visit.headed_out_at} className="near">
      {i + 1}. Headed out {dayTime(visit.headed_out_at)}
      {visit.arrived_at && `, arrived ${timeAfter(visit.arrived_at, visit.headed_out_at)}`}
      {visit.left_at && `, left ${timeAfter(visit.left_at, visit.arrived_at ?? visit.headed_out_at)}`}.{" "}
      {arrivals[i] && <b>{arrivals[i]} </b>}
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
