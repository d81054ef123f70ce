import { NumberInput, Select, Textarea } from "@mantine/core";
import { useState } from "react";
import { v4 as newId } from "uuid";
import { PHASE_COLOUR, type Phase } from "../ui/phases";
import type { BesideProps } from "./beside-props";
import { Dictate } from "./Dictate";
import { now } from "./outbox";
import { usePocketLists } from "./use-lists";

/**
 * Something that was done and that no step asks for, in words or as a standard step, and on which equipment of
 * the site: the engineers read it, and may make it one.
 */
export function MissingStep({ page, record, onDone }: BesideProps) {
  const lists = usePocketLists();
  const standards = lists.data?.standard_steps ?? [];
  const [standard, setStandard] = useState<string | null>(null);
  const [asset, setAsset] = useState<string>(page.line.asset.code);
  const [phase, setPhase] = useState<Phase>("Put right");
  const [text, setText] = useState("");
  const [took, setTook] = useState<number | string>(5);
  const here = page.siteAssets;
  const nameOf = (code: string) => here.find((one) => one.code === code)?.name ?? code;

  function choose(document: string | null) {
    setStandard(document);
    const found = standards.find((one) => one.document === document);
    if (!found) return;
    setText(found.title);
    setPhase(found.phase);
    setTook(found.minutes);
  }

  return (
    <>
      {Object.entries(page.job.beside.steps).map(([id, step]) => (
        <p key={id}>
          {step.phase}: {step.text}, {step.minutes} min
          {step.asset && `, on ${nameOf(step.asset)}`}
        </p>
      ))}
      {standards.length > 0 && (
        <Select
          label="A standard step"
          placeholder="None, in my own words"
          size="md"
          searchable
          clearable
          data={standards.map((one) => ({ value: one.document, label: one.title }))}
          value={standard}
          onChange={choose}
        />
      )}
      {here.length > 1 && (
        <Select
          label="Done on"
          size="md"
          allowDeselect={false}
          data={here.map((one) => ({ value: one.code, label: one.name }))}
          value={asset}
          onChange={(value) => value && setAsset(value)}
        />
      )}
      <Textarea
        label="What was done"
        size="md"
        autosize
        minRows={2}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <Dictate onWords={(words) => setText((held) => [held, words].filter(Boolean).join(" "))} />
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
          const event = {
            kind: "step added",
            at: now(),
            record: newId(),
            phase,
            text: text.trim(),
            minutes: Number(took),
            standard: standard ?? "",
            asset: asset === page.line.asset.code ? "" : asset,
          } as const;
          if (await record(event)) onDone();
        }}
      >
        Keep it
      </button>
    </>
  );
}
