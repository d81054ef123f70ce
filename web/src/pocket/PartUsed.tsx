import { NumberInput, Select } from "@mantine/core";
import { useState } from "react";
import type { FieldEvent } from "../api/types";
import { number } from "../ui/format";
import type { CarriedOrder } from "./carried-order";
import { now } from "./outbox";
import { usePartNames } from "./part-names";
import { usePocketLists } from "./use-lists";

interface Props {
  page: CarriedOrder;
  current: string | null;
  record: (...events: FieldEvent[]) => Promise<boolean>;
  onDone: () => void;
}

/** A part that was used: from the van or from what came for this job, and how much of it is charged. */
export function PartUsed({ page, current, record, onDone }: Props) {
  const lists = usePocketLists();
  const names = usePartNames();
  const [part, setPart] = useState<string | null>(null);
  const [supply, setSupply] = useState<string | null>(null);
  const [quantity, setQuantity] = useState<number | string>(1);
  const [isOther, setOther] = useState(false);
  const [charged, setCharged] = useState<number | string>(0);
  const here = Object.entries(page.job.supplies).filter(
    ([, one]) => one.part === part && one.state === "here" && one.here > 0,
  );
  const used = page.job.parts;

  async function keep() {
    if (!part) return;
    const event = {
      kind: "part used",
      at: now(),
      part,
      quantity: Number(quantity),
      line: current,
      supply: here.some(([id]) => id === supply) ? supply : null,
      charged: isOther ? Number(charged) : null,
    } as const;
    if (await record(event)) onDone();
  }

  return (
    <section>
      <h2>Part used</h2>
      {used.length > 0 && (
        <ul className="used-parts">
          {used.map((one, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: uses are only added, and may be alike
            <li key={i}>
              {names.amount(one.part, one.quantity)}
              {one.supply && `, ${names.source(page.job.supplies[one.supply])}`}
              {typeof one.charged === "number" && `; ${number(one.charged)} charged`}
            </li>
          ))}
        </ul>
      )}
      <Select
        aria-label="Part"
        placeholder="Which part"
        size="md"
        searchable
        data={(lists.data?.parts ?? []).map((p) => ({ value: p.code, label: `${p.name} (${p.unit})` }))}
        value={part}
        onChange={setPart}
      />
      {here.length > 0 && (
        <Select
          label="Taken from"
          size="md"
          allowDeselect={false}
          data={[
            { value: "", label: "your van" },
            ...here.map(([id, one]) => ({ value: id, label: names.source(one) })),
          ]}
          value={supply ?? ""}
          onChange={setSupply}
        />
      )}
      <div className="pocket-two">
        <NumberInput aria-label="Quantity" size="md" min={0} value={quantity} onChange={setQuantity} />
        <button
          type="button"
          className="pocket-other"
          disabled={!part || !(Number(quantity) > 0) || (isOther && charged === "")}
          onClick={keep}
        >
          Record part
        </button>
      </div>
      {isOther ? (
        <NumberInput
          label="Charged to the customer"
          description="0 where nothing of it is charged"
          size="md"
          min={0}
          value={charged}
          onChange={setCharged}
        />
      ) : (
        <button type="button" className="pocket-quiet" onClick={() => setOther(true)}>
          Charge another quantity
        </button>
      )}
    </section>
  );
}
