import { Select } from "@mantine/core";
import type { Catalogue, PlacedAsset } from "../api/types";

/** Choose the asset and what the caller sees, by typing. */
export function AssetSymptom({
  assets,
  symptoms,
  asset,
  symptom,
  onAsset,
  onSymptom,
}: {
  assets: PlacedAsset[];
  symptoms: Catalogue["symptoms"];
  asset: string | null;
  symptom: string | null;
  onAsset: (id: string | null) => void;
  onSymptom: (code: string | null) => void;
}) {
  const sites = [...new Set(assets.map((a) => a.site.name))];
  return (
    <>
      <Select
        label="Asset"
        placeholder="Type a site, a name or a model"
        searchable
        clearable
        maxDropdownHeight={320}
        data={sites.map((site) => ({
          group: site,
          items: assets
            .filter((a) => a.site.name === site)
            .map(({ asset: a }) => ({ value: a.code, label: `${a.name}, ${site}, ${a.model}` })),
        }))}
        value={asset}
        onChange={onAsset}
      />
      <Select
        label="Symptom"
        placeholder="What the caller sees"
        searchable
        clearable
        mt={6}
        data={symptoms.map((s) => ({ value: s.code, label: s.label }))}
        value={symptom}
        onChange={onSymptom}
      />
    </>
  );
}
