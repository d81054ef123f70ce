import { Button, NumberInput, Popover, Select, TextInput } from "@mantine/core";
import { useState } from "react";
import { client, need } from "../api/client";
import { keys, useCatalogue } from "../api/queries";
import type { OrderPage } from "../api/types";
import { useChange } from "../api/use-change";
import { number } from "../ui/format";
import { Trouble } from "../ui/Trouble";

/** Parts that come to an order from elsewhere than the van; whoever plans sends some ahead. */
export function PartsSentAhead({ page, plans }: { page: OrderPage; plans: boolean }) {
  const maySend = plans && page.takes_parts;
  if (page.supplies.length === 0 && !maySend) return null;
  return (
    <section aria-label="Parts from elsewhere">
      {page.supplies.length > 0 && (
        <>
          <h2 className="apart">Parts from elsewhere</h2>
          <ul>
            {page.supplies.map(({ record, amount, supply, of_name }) => (
              <li key={record}>
                <b>{amount}</b>: {standing(supply, of_name)}
                {supply.said && ` “${supply.said}”`}
              </li>
            ))}
          </ul>
        </>
      )}
      {maySend && <SendPart order={page.line.id} />}
    </section>
  );
}

function standing(supply: OrderPage["supplies"][number]["supply"], name: string): string {
  switch (supply.state) {
    case "asked":
      return `asked of ${name}, not answered yet.`;
    case "granted":
      return `${name} lets it go; not picked up yet.`;
    case "not granted":
      return `${name} does not let it go.`;
    case "sent":
      return "sent ahead, not confirmed as received yet.";
    case "here":
      return supply.of ? `picked up from ${name}.` : `sent ahead, ${number(supply.here)} received.`;
  }
}

function SendPart({ order }: { order: string }) {
  const parts = useCatalogue().data?.parts ?? [];
  const [part, setPart] = useState<string | null>(null);
  const [quantity, setQuantity] = useState<number | string>(1);
  const [text, setText] = useState("");
  const [shown, setShown] = useState(false);
  const send = useChange(
    (body: { part: string; quantity: number; text: string }) =>
      need(
        client.POST("/api/v1/orders/{order_id}/part-supplies", {
          params: { path: { order_id: order } },
          body,
        }),
      ),
    [keys.order(order)],
  );
  return (
    <Popover position="bottom-start" width={320} trapFocus opened={shown} onChange={setShown}>
      <Popover.Target>
        <Button variant="default" mt="xs" onClick={() => setShown(!shown)}>
          Send a part ahead
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Select
          label="Part"
          searchable
          comboboxProps={{ withinPortal: false }}
          data={parts.map((p) => ({ value: p.code, label: `${p.name} (${p.unit})` }))}
          value={part}
          onChange={setPart}
        />
        <NumberInput label="How many" min={0} value={quantity} onChange={setQuantity} />
        <TextInput
          label="Where it is to be found"
          value={text}
          maxLength={500}
          onChange={(e) => setText(e.currentTarget.value)}
        />
        <Trouble error={send.error} />
        <Button
          mt="xs"
          disabled={!part || !(Number(quantity) > 0)}
          loading={send.isPending}
          onClick={() =>
            part &&
            send.mutate(
              { part, quantity: Number(quantity), text: text.trim() },
              {
                onSuccess: () => {
                  setShown(false);
                  setPart(null);
                  setText("");
                },
              },
            )
          }
        >
          Send it
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
