import { NumberInput, TextInput } from "@mantine/core";
import { useEffect, useState } from "react";
import { v4 as newId } from "uuid";
import type { MeantPart } from "../api/types";
import { number } from "../ui/format";
import type { BesideProps } from "./beside-props";
import { now } from "./outbox";
import { rulesOfPage } from "./rules";
import { usePocketLists } from "./use-lists";

/** A part by what it says on it: the likeliest of the catalogue are offered, or it is kept as typed for the office. */
export function PartByWords({ page, current, record, onDone }: BesideProps) {
  const lists = usePocketLists();
  const [text, setText] = useState("");
  const [quantity, setQuantity] = useState<number | string>(1);
  const [found, setFound] = useState<MeantPart[] | null>(null);
  const parts = lists.data?.parts;
  useEffect(() => {
    let here = true;
    const asked = text.trim();
    setFound(null);
    if (!asked || !parts) return;
    const later = window.setTimeout(async () => {
      const rules = rulesOfPage();
      if (!(await rules.begun)) return;
      const likely = await rules.likely(asked, parts).catch(() => null);
      if (here) setFound(likely);
    }, 200);
    return () => {
      here = false;
      window.clearTimeout(later);
    };
  }, [text, parts]);
  const many = Number(quantity);
  const ready = Boolean(text.trim()) && many > 0;

  async function use(part: string) {
    if (await record({ kind: "part used", at: now(), part, quantity: many, line: current })) onDone();
  }
  async function keepTyped() {
    const event = {
      kind: "part typed",
      at: now(),
      record: newId(),
      text: text.trim(),
      quantity: many,
      line: current,
    } as const;
    if (await record(event)) onDone();
  }

  return (
    <>
      {Object.entries(page.job.beside.parts).map(([id, typed]) => (
        <p key={id}>
          {number(typed.quantity)} × “{typed.text}”
          {typed.settled
            ? typed.settled.decision === "matched"
              ? `: the office says it is ${typed.settled.target}.`
              : `: set aside by the office. ${typed.settled.reason}`
            : ": the office will say which part it is."}
        </p>
      ))}
      <TextInput
        label="What it says on it"
        size="md"
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <NumberInput label="How many" size="md" min={0} value={quantity} onChange={setQuantity} />
      {found?.map((likely) => (
        <button
          key={likely.part}
          type="button"
          className="pocket-other likely"
          disabled={!ready}
          onClick={() => use(likely.part)}
        >
          {likely.name}
          <small>
            {likely.part}: {likely.why}
          </small>
        </button>
      ))}
      {found?.length === 0 && <p className="soft">Nothing in the list is like it.</p>}
      <button type="button" className="pocket-other" disabled={!ready} onClick={keepTyped}>
        Keep as typed, the office finds the part
      </button>
    </>
  );
}
