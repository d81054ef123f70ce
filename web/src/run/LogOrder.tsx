import { Button, Drawer, Textarea } from "@mantine/core";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import { ordersChanged, useAssets, useCache, useCatalogue, useTrial } from "../api/queries";
import { AssetSymptom } from "../ui/AssetSymptom";
import { TraceList } from "../ui/TraceList";
import { Trouble } from "../ui/Trouble";

/** Log an order; what it will get is shown before it is logged. */
export function LogOrder({ shown, onClose }: { shown: boolean; onClose: () => void }) {
  const assets = useAssets();
  const catalogue = useCatalogue();
  const [asset, setAsset] = useState<string | null>(null);
  const [symptom, setSymptom] = useState<string | null>(null);
  const [report, setReport] = useState("");
  const [error, setError] = useState<unknown>(null);
  const trial = useTrial(asset, symptom);
  const cache = useCache();
  const navigate = useNavigate();

  async function log() {
    try {
      const made = await need(
        client.POST("/api/orders", { body: { asset: asset ?? "", symptom: symptom ?? "", report } }),
      );
      ordersChanged(cache);
      onClose();
      navigate(`/run/${made.id}`);
    } catch (refusal) {
      setError(refusal);
    }
  }

  return (
    <Drawer opened={shown} onClose={onClose} title="Log an order" position="right" size="md">
      <AssetSymptom
        assets={assets.data ?? []}
        symptoms={catalogue.data?.symptoms ?? []}
        asset={asset}
        symptom={symptom}
        onAsset={setAsset}
        onSymptom={setSymptom}
      />
      <Textarea
        label="What the caller says"
        mt={6}
        autosize
        minRows={2}
        value={report}
        onChange={(e) => setReport(e.currentTarget.value)}
      />
      <Trouble error={error} />
      <Button mt="md" disabled={!asset || !symptom} onClick={log}>
        Log it
      </Button>
      {trial.data && (
        <>
          <hr className="rule" />
          <TraceList trace={trial.data.trace} />
        </>
      )}
    </Drawer>
  );
}
