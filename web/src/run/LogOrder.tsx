import { Button, Drawer, Select, Textarea } from "@mantine/core";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import {
  ordersChanged,
  useAssets,
  useCache,
  useCatalogue,
  useChoices,
  useOrderTried,
  useShelf,
} from "../api/queries";
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
  const [incidentType, setIncidentType] = useState<string | null>(null);
  const [priority, setPriority] = useState<string | null>(null);
  const [without, setWithout] = useState<string[]>([]);
  const shelf = useShelf();
  const priorities = useChoices().data?.priorities ?? [];
  const tried = useOrderTried({
    asset,
    symptom,
    incident_type: incidentType ?? "",
    priority: priority ?? "",
  });
  const refused = tried.data?.match.refused ?? [];
  const cache = useCache();
  const navigate = useNavigate();

  async function log() {
    try {
      const made = await need(
        client.POST("/api/v1/orders", {
          body: {
            asset: asset ?? "",
            symptom: symptom ?? "",
            report,
            incident_type: incidentType ?? "",
            priority: priority ?? "",
            without,
          },
        }),
      );
      ordersChanged(cache);
      onClose();
      void navigate(`/run/${made.id}`);
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
      <Select
        label="Incident type"
        placeholder={
          tried.data?.incident_type ? `By its rows: ${tried.data.incident_type_title}` : "By its rows"
        }
        mt={6}
        searchable
        clearable
        data={(shelf.data ?? []).map((row) => ({ value: row.document, label: row.title }))}
        value={incidentType}
        onChange={setIncidentType}
      />
      <Select
        label="How soon"
        placeholder="Not said"
        mt={6}
        clearable
        data={priorities}
        value={priority}
        onChange={setPriority}
      />
      {refused.map((pair) => (
        <div key={pair.sentence} className="note bad" role="alert">
          <p className="flush">{pair.sentence}</p>
          <Select
            label="Leave out"
            data={[pair.first, pair.second]}
            value={without.find((d) => d === pair.first || d === pair.second) ?? null}
            onChange={(d) =>
              setWithout((all) => [
                ...all.filter((x) => x !== pair.first && x !== pair.second),
                ...(d ? [d] : []),
              ])
            }
          />
        </div>
      ))}
      <Trouble error={error} />
      <Button mt="md" disabled={!asset || !symptom} onClick={log}>
        Log it
      </Button>
      {tried.data && (
        <>
          <hr className="rule" />
          <TraceList trace={tried.data.trace} nRows={tried.data.n_rows} />
        </>
      )}
    </Drawer>
  );
}
