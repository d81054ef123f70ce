import type { RunsheetLine, RunView } from "../api/types";
import { minutes } from "./format";
import { PHASE_COLOUR, phaseWord } from "./phases";
import "./runsheet-list.css";

/** A runsheet as issued: its lines by phase, with where each was written. */
export function RunsheetList({
  run,
  states,
  needs,
}: {
  run: RunView["runsheet"];
  states?: Record<string, string>;
  /** What a line takes and what it is done with, in words. */
  needs?: (line: RunsheetLine) => string;
}) {
  return (
    <ol className="rs">
      {run.lines.map((line) => (
        <li
          key={line.id}
          style={{ borderLeftColor: PHASE_COLOUR[line.phase], marginLeft: line.under ? 22 : 0 }}
        >
          <span className="rs-phase" style={{ color: phaseWord(line.phase) }}>
            {line.phase}
          </span>
          <span>
            {line.text}
            {line.when && <small>when {line.when}</small>}
            {needs?.(line) && <small>{needs(line)}</small>}
            {line.asked_by.length > 1 && <small>asked for by {line.asked_by.join(" and ")}, done once</small>}
          </span>
          <span className="mono soft">{states?.[line.id] ?? minutes(line.minutes.likely)}</span>
          <span className="mono soft">
            {line.document} {line.revision}
          </span>
        </li>
      ))}
    </ol>
  );
}
