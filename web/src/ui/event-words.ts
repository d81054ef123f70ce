import type { FieldEvent } from "../api/types";

/** What was recorded, in words; `names` are those of steps and questions by identity. */
export function eventWords(event: FieldEvent, names: Map<string, string>): string {
  const named = (id: string | null | undefined) => (id ? (names.get(id) ?? id) : "");
  switch (event.kind) {
    case "answered":
      return `${named(event.question)}: ${typeof event.value === "object" ? JSON.stringify(event.value) : String(event.value)}`;
    case "step started":
    case "step done":
      return `${event.kind}: ${named(event.line)}`;
    case "step skipped":
      return `left out: ${named(event.line)}, because ${event.reason}`;
    case "part used":
      return `part used: ${event.quantity} × ${event.part}`;
    case "note written":
      return `note: “${event.text}”`;
    case "picture marked":
      return `${event.marks.length} marks on a picture`;
    case "help asked":
      return `help asked: “${event.text}”`;
    case "help added":
      return `more on the question: “${event.text}”`;
    case "help ended":
      return event.kept ? "question ended and kept" : "question ended, not kept";
    case "part typed":
      return `part used: ${event.quantity} × “${event.text}”`;
    case "equipment found":
      return `equipment found: ${event.name}`;
    case "step added":
      return `done beside the steps: ${event.text}`;
    case "work recommended":
      return `further work recommended: ${event.text}`;
    case "work answered":
      return event.accepted ? "further work accepted" : "further work declined";
    case "signed off":
      return `signed by ${event.name}, ${event.role}`;
    case "customer said":
      return `customer: “${event.comment}”${event.rating ? `, ${event.rating} of 5` : ""}`;
    case "fix marked":
      return `past fix ${event.cause}, ${event.remedy}: ${event.helped ? "solved it" : "was not it"}`;
    case "check seen":
      return `fault guide, ${event.check}: ${event.seen === null ? "taken back" : event.seen ? "so" : "not so"}`;
    case "remedy tried":
      return `fault guide, ${event.remedy}: ${event.helped ? "it works now" : "still not right"}`;
    case "no cause fits":
      return event.text ? `no cause of the fault guide fits: “${event.text}”` : "no cause fits: taken back";
    case "time corrected":
      return `${event.time} of visit ${event.visit} corrected: ${event.reason}`;
    case "record settled":
      return `site record ${event.decision} ${event.target || event.reason}`;
    case "coded":
      return `cause ${event.cause}, remedy ${event.remedy}`;
    case "left site":
      return `left, ${event.outcome}${event.reason ? `: ${event.reason}` : ""}`;
    default:
      return event.kind;
  }
}
