import { Button, Popover, Select, Textarea } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { ordersChanged, useSharedDocuments } from "../api/queries";
import type { OrderPage } from "../api/types";
import { dayTime } from "../ui/format";
import { useAct } from "../ui/use-act";
import "./by-hand.css";

/** What is on the order, what was changed by hand and why; plans are added and taken off here. */
export function ByHand({ page }: { page: OrderPage }) {
  const { line, documents, by_hand } = page;
  const open = ["Logged", "Planned"].includes(line.state);
  const shared = (useSharedDocuments().data ?? []).filter(
    (row) => row.in_force && !documents.some((d) => d.document === row.link.document),
  );
  return (
    <section aria-label="On this order">
      <p className="near">
        On this order:{" "}
        {documents.map((d) => (
          <span key={d.document} className="on-order">
            <Link to={`/author/documents/${d.document}`}>{d.title}</Link>{" "}
            <span className="mono soft">{d.revision}</span>
            {open && (
              <Change
                order={line.id}
                act="removed"
                label="take off"
                title={`Take off ${d.title}`}
                document={d.document}
              />
            )}
          </span>
        ))}
        {documents.length === 0 && <span className="soft">nothing</span>}{" "}
        {open && (
          <Change
            order={line.id}
            act="added"
            label="Add a plan"
            title="Add a plan"
            choices={shared.map(({ link }) => ({
              value: link.document,
              label: `${link.title}, ${link.document}`,
            }))}
          />
        )}
      </p>
      {by_hand.map((c) => (
        <p key={`${c.at}${c.document}`} className="note near">
          {c.person_name} {c.act} {c.title} {c.revision} by hand, {dayTime(c.at)}: “{c.reason}”
        </p>
      ))}
    </section>
  );
}

function Change({
  order,
  act,
  label,
  title,
  document,
  choices,
}: {
  order: string;
  act: "added" | "removed";
  label: string;
  title: string;
  document?: string;
  choices?: { value: string; label: string }[];
}) {
  const { act: ask, isBusy } = useAct((cache) => {
    ordersChanged(cache);
    void cache.invalidateQueries({ queryKey: ["coverage"] });
  });
  const [open, setOpen] = useState(false);
  const [chosen, setChosen] = useState<string | null>(document ?? null);
  const [reason, setReason] = useState("");
  async function go() {
    const made = await ask(() =>
      need(
        client.POST("/api/v1/orders/{order_id}/documents", {
          params: { path: { order_id: order } },
          body: { act, document: chosen ?? "", reason },
        }),
      ),
    );
    if (made === undefined) return;
    setOpen(false);
    setReason("");
  }
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" width={320} trapFocus>
      <Popover.Target>
        <Button
          variant="subtle"
          color="slate"
          size="compact-xs"
          aria-label={title}
          onClick={() => setOpen(!open)}
        >
          {label}
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        {choices && (
          <Select
            label="Plan, form or standard step"
            searchable
            comboboxProps={{ withinPortal: false }}
            data={choices}
            value={chosen}
            onChange={setChosen}
          />
        )}
        <Textarea
          label="Why"
          mt={6}
          autosize
          minRows={2}
          value={reason}
          onChange={(e) => setReason(e.currentTarget.value)}
        />
        <Button mt="xs" disabled={!chosen || !reason.trim()} loading={isBusy} onClick={go}>
          {title}
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
