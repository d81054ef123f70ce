import { Button, Popover, Select, TextInput } from "@mantine/core";
import { useState } from "react";
import { client, need } from "../api/client";
import { ordersChanged, useCache } from "../api/queries";
import type { OrderPage } from "../api/types";
import { useChange } from "../api/use-change";
import { Trouble } from "../ui/Trouble";
import { VisitList } from "../ui/VisitList";
import { localInput, recordedTimes, type TimeOfVisit } from "../ui/visit-times";

/** The visits of an order with their times; whoever plans may put one right with a reason. */
export function VisitsOfOrder({ page, plans }: { page: OrderPage; plans: boolean }) {
  if (page.job.visits.length === 0) return null;
  return (
    <section aria-label="Visits">
      <h2 className="apart">Visits</h2>
      <VisitList visits={page.job.visits} arrivals={page.arrivals} />
      {plans && <CorrectTime page={page} />}
    </section>
  );
}

function CorrectTime({ page }: { page: OrderPage }) {
  const cache = useCache();
  const told = recordedTimes(page.job.visits);
  const [shown, setShown] = useState(false);
  const [which, setWhich] = useState<string | null>(null);
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");
  const chosen = told.find((time) => time.value === which);
  const correct = useChange(
    (body: { visit: number; time: TimeOfVisit; to: string; reason: string }) =>
      need(
        client.POST("/api/v1/orders/{order_id}/time-corrections", {
          params: { path: { order_id: page.line.id } },
          body,
        }),
      ),
    [],
  );

  function choose(value: string | null) {
    setWhich(value);
    const at = told.find((time) => time.value === value)?.at;
    setTo(at ? localInput(at) : "");
  }

  return (
    <Popover position="bottom-start" width={320} trapFocus opened={shown} onChange={setShown}>
      <Popover.Target>
        <Button variant="default" mt="xs" onClick={() => setShown(!shown)}>
          Correct a time
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Select
          label="Which time"
          comboboxProps={{ withinPortal: false }}
          data={told}
          value={which}
          onChange={choose}
        />
        <TextInput
          label="It was"
          type="datetime-local"
          disabled={!chosen}
          value={to}
          onChange={(e) => setTo(e.currentTarget.value)}
        />
        <TextInput
          label="Why it is corrected"
          value={reason}
          maxLength={500}
          onChange={(e) => setReason(e.currentTarget.value)}
        />
        <Trouble error={correct.error} />
        <Button
          mt="xs"
          disabled={!chosen || !to || !reason.trim()}
          loading={correct.isPending}
          onClick={() =>
            chosen &&
            correct.mutate(
              {
                visit: chosen.visit,
                time: chosen.time,
                to: new Date(to).toISOString(),
                reason: reason.trim(),
              },
              {
                onSuccess: () => {
                  ordersChanged(cache);
                  setShown(false);
                  choose(null);
                  setReason("");
                },
              },
            )
          }
        >
          Correct it
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
