import { NumberInput, Select, TextInput } from "@mantine/core";
import { useState } from "react";
import { v4 as newId } from "uuid";
import { number } from "../ui/format";
import type { BesideProps } from "./beside-props";
import { now } from "./outbox";

/** What was spent besides parts: at the rate that the office fixed, or at what it was. */
export function Costs({ page, record }: BesideProps) {
  const kinds = page.run.runsheet.cost_kinds;
  const [code, setCode] = useState<string | null>(null);
  const [quantity, setQuantity] = useState<number | string>(1);
  const [rate, setRate] = useState<number | string>("");
  const [charged, setCharged] = useState<number | string>("");
  const [text, setText] = useState("");
  const kind = kinds.find((one) => one.code === code);
  const isOpen = kind !== undefined && kind.rate === null;
  if (kinds.length === 0) return <p className="soft">The office has no list of costs for this order.</p>;

  async function keep() {
    if (!kind) return;
    const event = {
      kind: "cost recorded",
      at: now(),
      record: newId(),
      cost: kind.code,
      quantity: Number(quantity),
      rate: isOpen ? Number(rate) : null,
      charged: charged === "" ? null : Number(charged),
      text: text.trim(),
    } as const;
    if (await record(event)) {
      setCode(null);
      setQuantity(1);
      setRate("");
      setCharged("");
      setText("");
    }
  }

  return (
    <>
      {Object.entries(page.job.costs).map(([id, cost]) => {
        const of = kinds.find((one) => one.code === cost.cost);
        return (
          <div key={id} className="beside-entry cost-entry">
            <p>
              {of?.name ?? cost.cost}: {number(cost.quantity)} {of && of.unit !== "each" ? of.unit : "×"}{" "}
              {number(cost.rate)} = <b>{number(cost.amount)}</b>
              {cost.charged !== cost.quantity && `; ${number(cost.charged)} charged`}
              {cost.text && `. ${cost.text}`}
            </p>
            <button
              type="button"
              className="pocket-quiet"
              aria-label={`Take back: ${of?.name ?? cost.cost}`}
              onClick={() =>
                record({
                  kind: "cost recorded",
                  at: now(),
                  record: id,
                  cost: cost.cost,
                  quantity: 0,
                  rate: null,
                  charged: null,
                  text: "",
                })
              }
            >
              Take back
            </button>
          </div>
        );
      })}
      <Select
        label="What for"
        size="md"
        data={kinds.map((one) => ({
          value: one.code,
          label: one.rate === null ? one.name : `${one.name}, ${number(one.rate ?? 0)} a ${one.unit}`,
        }))}
        value={code}
        onChange={setCode}
      />
      <NumberInput
        label={kind && kind.unit !== "each" ? `How much, in ${kind.unit}` : "How many"}
        size="md"
        min={0}
        value={quantity}
        onChange={setQuantity}
      />
      {isOpen && (
        <NumberInput
          label={kind.unit === "each" ? "What one cost" : `What one ${kind.unit} cost`}
          size="md"
          min={0}
          value={rate}
          onChange={setRate}
        />
      )}
      <NumberInput
        label="Charged to the customer"
        description="Left empty where it is the same quantity"
        size="md"
        min={0}
        value={charged}
        onChange={setCharged}
      />
      <TextInput
        label="Remark"
        placeholder="Optional"
        size="md"
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <button
        type="button"
        className="pocket-other"
        disabled={!kind || !(Number(quantity) > 0) || (isOpen && rate === "")}
        onClick={keep}
      >
        Keep it
      </button>
    </>
  );
}
