import type { RunView } from "../api/types";
import { minutes } from "./format";
import { PHASE_COLOUR, phaseWord } from "./phases";
import "./runsheet-list.css";

/** A runsheet as issued: its lines by phase, with where each was written. */
export function RunsheetList({ run, states }: { run: RunView["runsheet"]; states?: Record<string, string> }) {
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
