import type { TrialView } from "../api/types";
import { dayYear } from "../ui/format";

/** Which orders get the revision on trial. */
export function toWhom({ trial }: TrialView): string {
  return trial.districts.length > 0
    ? `On all orders of ${trial.districts.join(", ")}`
    : `On one in ${trial.one_in} orders`;
}

/** How a trial ended, who ended it and when; empty while it is under way. */
export function howItEnded({ trial, ended_by_name }: TrialView): string {
  if (!trial.ended_at || !trial.end) return "";
  const what = trial.end === "released" ? "Released to all" : "Withdrawn";
  return `${what} on ${dayYear(trial.ended_at)} by ${ended_by_name}${trial.reason ? `: ${trial.reason}` : ""}`;
}
