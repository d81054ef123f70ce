import { Button, Modal, MultiSelect, NumberInput, Radio, Stack } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, keys, useCache } from "../api/queries";
import { useChange } from "../api/use-change";
import { Trouble } from "../ui/Trouble";
import type { RevisionHead } from "./revision-head";

const SETTLED_MS = 250;

/** Which orders get a revision before it is released to all, and what it takes to tell whether it helps. */
export function TryFirst({ plan, onClose }: { plan: RevisionHead; onClose: () => void }) {
  const cache = useCache();
  const navigate = useNavigate();
  const [by, setBy] = useState<"draw" | "district">("draw");
  const [oneIn, setOneIn] = useState<number>(2);
  const [districts, setDistricts] = useState<string[]>([]);
  const [worth, setWorth] = useState<number>(10);
  const chosen = { one_in: oneIn, worth_minutes: worth, districts: by === "district" ? districts : [] };
  const [asked] = useDebouncedValue(chosen, SETTLED_MS);
  const at = { path: { document: plan.document } };
  const offer = useQuery({
    queryKey: ["trial-offer", plan.document, plan.letter, asked],
    queryFn: () =>
      need(
        client.GET("/api/v1/documents/{document}/trial-offer", {
          params: {
            ...at,
            query: { one_in: asked.one_in, worth_minutes: asked.worth_minutes, district: asked.districts },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const begin = useChange(
    () => need(client.POST("/api/v1/documents/{document}/trial", { params: at, body: chosen })),
    [keys.trials],
  );
  const none = by === "district" && districts.length === 0;
  return (
    <Modal opened onClose={onClose} title={`Try revision ${plan.letter} on some of the orders`} centered>
      <Stack gap="sm">
        <Radio.Group
          label="Orders logged from now on that get it"
          value={by}
          onChange={(value) => setBy(value === "district" ? "district" : "draw")}
        >
          <Stack gap={6} mt={6}>
            <Radio value="draw" label="Some of all orders, drawn" />
            <Radio value="district" label="All orders of some districts" />
          </Stack>
        </Radio.Group>
        {by === "draw" ? (
          <NumberInput
            label="One order in"
            min={2}
            max={10}
            clampBehavior="strict"
            allowDecimal={false}
            value={oneIn}
            onChange={(value) => typeof value === "number" && setOneIn(value)}
          />
        ) : (
          <MultiSelect
            label="Districts"
            description="What their jobs took before is taken out; what has changed there since then is not."
            data={offer.data?.districts ?? []}
            value={districts}
            onChange={setDistricts}
            clearable
          />
        )}
        <NumberInput
          label="Minutes a job that are worth finding"
          min={1}
          max={1000}
          value={worth}
          onChange={(value) => typeof value === "number" && value > 0 && setWorth(value)}
        />
        {none ? (
          <p className="soft flat">Choose at least one district.</p>
        ) : offer.error ? (
          <Trouble error={offer.error} />
        ) : (
          <p role="status" className="soft flat">
            {offer.data ? offer.data.plan.sentence : "Looking at what jobs took before."}
          </p>
        )}
        <p className="soft flat">
          The other orders keep revision {plan.in_force}. The range may be read after every job; the trial is
          over when it leaves out no change, or after that many jobs.
        </p>
        <Trouble error={begin.error} />
        <div className="actions">
          <Button
            loading={begin.isPending}
            disabled={none || Boolean(offer.error) || offer.isPending}
            onClick={() =>
              begin.mutate(undefined, {
                onSuccess: (made) => {
                  guidanceChanged(cache);
                  void navigate(`/refine/trials/${made.id}`);
                },
              })
            }
          >
            Begin the trial
          </Button>
          <Button variant="default" onClick={onClose}>
            Leave it
          </Button>
        </div>
      </Stack>
    </Modal>
  );
}
