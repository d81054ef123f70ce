import { Button, Textarea } from "@mantine/core";
import type { Problem } from "../api/types";
import { count } from "../ui/format";

export interface Pasted {
  row: string;
  column: number;
  text: string;
  problems: Problem[];
}

/** A pasted sheet with cells that cannot be read: what is wrong where; mend it here, or take the rest. */
export function PastedSheet({
  pasted,
  onText,
  onAgain,
  onRest,
  onDrop,
}: {
  pasted: Pasted;
  onText: (text: string) => void;
  onAgain: () => void;
  onRest: () => void;
  onDrop: () => void;
}) {
  return (
    <section className={pasted.problems.length ? "note bad" : "note"} aria-label="What was pasted">
      <p className="flush" role={pasted.problems.length ? "alert" : undefined}>
        {pasted.problems.length
          ? `${count(pasted.problems.length, "cell")} of what was pasted cannot be read, and nothing was written. It is all kept here.`
          : "Paste rows from a spreadsheet here; they come below the last row. In the sheet itself, paste where they are to begin."}
      </p>
      <ul className="plain-list">
        {pasted.problems.slice(0, 12).map((p) => (
          <li key={`${p.path}${p.message}`}>
            <span className="mono soft">{p.path}</span> {p.message} {p.hint}
          </li>
        ))}
      </ul>
      {pasted.problems.length > 12 && <p className="soft">and {pasted.problems.length - 12} more.</p>}
      <Textarea
        className="paste-text"
        label="What was pasted, one row a line, cells apart by tabs"
        autosize
        minRows={3}
        maxRows={10}
        value={pasted.text}
        onChange={(e) => onText(e.currentTarget.value)}
      />
      <div className="actions under">
        <Button onClick={onAgain} disabled={!pasted.text.trim()}>
          {pasted.problems.length ? "Paste it as it is now" : "Add these rows"}
        </Button>
        {pasted.problems.length > 0 && (
          <Button variant="default" onClick={onRest}>
            Take the cells that can be read
          </Button>
        )}
        <Button variant="default" onClick={onDrop}>
          Drop it
        </Button>
      </div>
    </section>
  );
}
