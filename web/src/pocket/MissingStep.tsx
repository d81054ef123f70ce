import { NumberInput, Select, Textarea } from "@mantine/core";
import { useState } from "react";
import { v4 as newId } from "uuid";
import { PHASE_COLOUR, type Phase } from "../ui/phases";
import type { BesideProps } from "./beside-props";
import { now } from "./outbox";

/** Something that was done and that no step asks for: the engineers read it, and may make it one. */
export function MissingStep({ page, record, onDone }: BesideProps) {
  const [phase, setPhase] = useState<Phase>("Put right");
  const [text, setText] = useState("");
  const [took, setTook] = useState<number | string>(5);
  return (
    <>
      {Object.entries(page.job.beside.steps).map(([id, step]) => (
        <p key={id}>
          {step.phase}: {step.text}, {step.minutes} min
        </p>
      ))}
      <Textarea
        label="What was done"
        size="md"
        autosize
        minRows={2}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <Select
        label="Where it belongs"
        size="md"
        data={Object.keys(PHASE_COLOUR)}
        value={phase}
        allowDeselect={false}
        onChange={(value) => setPhase(value as Phase)}
      />
      <NumberInput label="Minutes it took" size="md" min={0} max={1440} value={took} onChange={setTook} />
      <button
        type="button"
        className="pocket-other"
        disabled={!text.trim() || took === ""}
        onClick={async () => {
          const minutes = Number(took);
          const event = {
            kind: "step added",
            at: now(),
            record: newId(),
            phase,
            text: text.trim(),
            minutes,
          } as const;
          if (await record(event)) onDone();
        }}
      >
        Keep it
      </button>
    </>
  );
}
