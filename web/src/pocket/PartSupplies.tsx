import { NumberInput, Select, TextInput } from "@mantine/core";
import { useState } from "react";
import { v4 as newId } from "uuid";
import type { FieldEvent, PartSupply } from "../api/types";
import { number } from "../ui/format";
import { Look } from "../ui/Look";
import type { CarriedOrder } from "./carried-order";
import { now } from "./outbox";
import { usePartNames } from "./part-names";
import { usePocketLists } from "./use-lists";
import "../ui/pocket-step.css";
import "./pocket.css";

interface Props {
  page: CarriedOrder;
  record: (...events: FieldEvent[]) => Promise<boolean>;
}

/** Parts that come from elsewhere: confirmed when they are here; and a colleague asked for one. */
export function PartSupplies({ page, record }: Props) {
  return (
    <>
      {Object.entries(page.job.supplies).map(([id, supply]) => (
        <Supply key={id} id={id} supply={supply} record={record} />
      ))}
      <AskColleague record={record} />
    </>
  );
}

/** Those of an order that somebody has to do something about, before anybody sets off. */
export function ComingParts({ page, record }: Props) {
  const coming = Object.entries(page.job.supplies);
  return (
    <Look>
      <section aria-label="Parts from elsewhere">
        <h2>Parts from elsewhere</h2>
        {coming.map(([id, supply]) => (
          <Supply key={id} id={id} supply={supply} record={record} />
        ))}
      </section>
    </Look>
  );
}

function Supply({ id, supply, record }: { id: string; supply: PartSupply; record: Props["record"] }) {
  const names = usePartNames();
  const [came, setCame] = useState<number | string>(supply.quantity);
  const [why, setWhy] = useState("");
  const isOther = Number(came) !== supply.quantity;
  const said = supply.said && ` “${supply.said}”`;
  const what = names.amount(supply.part, supply.quantity);
  return (
    <div className="beside-entry">
      <p>
        <b>{what}</b>, {standing(supply, names.person)}
        {said}
      </p>
      {supply.state === "sent" && (
        <>
          <div className="pocket-two">
            <NumberInput
              aria-label={`How many came: ${what}`}
              size="md"
              min={0}
              value={came}
              onChange={setCame}
            />
            <button
              type="button"
              className="pocket-other"
              disabled={came === "" || (isOther && !why.trim())}
              onClick={() =>
                record({
                  kind: "part received",
                  at: now(),
                  record: id,
                  quantity: Number(came),
                  text: why.trim(),
                })
              }
            >
              It is here
            </button>
          </div>
          {isOther && (
            <TextInput
              label="Why it is another number"
              size="md"
              value={why}
              onChange={(e) => setWhy(e.currentTarget.value)}
            />
          )}
        </>
      )}
      {supply.state === "granted" && (
        <button
          type="button"
          className="pocket-other"
          onClick={() => record({ kind: "part picked up", at: now(), record: id })}
        >
          Picked up
        </button>
      )}
    </div>
  );
}

function standing(supply: PartSupply, person: (id: string) => string): string {
  const of = supply.of ? person(supply.of) : "";
  switch (supply.state) {
    case "asked":
      return `asked of ${of}, not answered yet.`;
    case "granted":
      return `${of} lets you have it.`;
    case "not granted":
      return `${of} cannot let you have it.`;
    case "sent":
      return "sent ahead by the office.";
    case "here":
      return supply.of
        ? `picked up from ${of}.`
        : `sent ahead, ${supply.here === supply.quantity ? "here" : `${number(supply.here)} here`}.`;
  }
}

function AskColleague({ record }: { record: Props["record"] }) {
  const lists = usePocketLists();
  const [part, setPart] = useState<string | null>(null);
  const [quantity, setQuantity] = useState<number | string>(1);
  const holders = (lists.data?.holders ?? []).filter((holder) => holder.part === part);
  const held = new Set(lists.data?.holders.map((holder) => holder.part));
  const parts = (lists.data?.parts ?? []).filter((one) => held.has(one.code));
  const unit = parts.find((one) => one.code === part)?.unit ?? "";
  return (
    <>
      <h3>Ask a colleague for a part</h3>
      <Select
        aria-label="Part to ask for"
        placeholder="Which part"
        size="md"
        searchable
        data={parts.map((p) => ({ value: p.code, label: `${p.name} (${p.unit})` }))}
        value={part}
        onChange={setPart}
      />
      <NumberInput label="How many" size="md" min={0} value={quantity} onChange={setQuantity} />
      {holders.map((holder) => (
        <button
          key={holder.person}
          type="button"
          className="pocket-other likely"
          disabled={!(Number(quantity) > 0)}
          onClick={async () => {
            const event = {
              kind: "part asked",
              at: now(),
              record: newId(),
              part: holder.part,
              quantity: Number(quantity),
              of: holder.person,
            } as const;
            if (await record(event)) setPart(null);
          }}
        >
          Ask {holder.name}
          <small>
            {holder.district}, carries {number(holder.quantity)} {unit === "each" ? "" : unit}
          </small>
        </button>
      ))}
    </>
  );
}
