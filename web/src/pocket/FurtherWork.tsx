import { NumberInput, Textarea } from "@mantine/core";
import { useState } from "react";
import { v4 as newId } from "uuid";
import { number } from "../ui/format";
import type { BesideProps } from "./beside-props";
import { now } from "./outbox";

/** Work recommended to the customer, and what they said to it; the office takes it up from there. */
export function FurtherWork({ page, record }: BesideProps) {
  const [text, setText] = useState("");
  const [price, setPrice] = useState<number | string>("");
  return (
    <>
      {Object.entries(page.job.beside.work).map(([id, work]) => (
        <div key={id} className="beside-entry">
          <p>
            {work.text}
            {work.price !== null && work.price !== undefined && `, ${number(work.price)}`}
          </p>
          <fieldset className="mark-on-scale" aria-label={`What the customer says to: ${work.text}`}>
            {([true, false] as const).map((accepted) => (
              <button
                key={String(accepted)}
                type="button"
                className="pchoice"
                aria-pressed={work.accepted === accepted}
                disabled={Boolean(work.settled)}
                onClick={() => record({ kind: "work answered", at: now(), record: id, accepted })}
              >
                {accepted ? "Accepted" : "Declined"}
              </button>
            ))}
          </fieldset>
        </div>
      ))}
      <Textarea
        label="What should be done"
        size="md"
        autosize
        minRows={2}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <NumberInput
        label="Price told to the customer"
        description="Left empty where none was told"
        size="md"
        min={0}
        value={price}
        onChange={setPrice}
      />
      <button
        type="button"
        className="pocket-other"
        disabled={!text.trim()}
        onClick={async () => {
          const told = price === "" ? null : Number(price);
          const event = {
            kind: "work recommended",
            at: now(),
            record: newId(),
            text: text.trim(),
            price: told,
          } as const;
          if (await record(event)) {
            setText("");
            setPrice("");
          }
        }}
      >
        Recommend it
      </button>
    </>
  );
}
