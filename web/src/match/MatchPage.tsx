import { Link, useSearchParams } from "react-router";
import { useAssets, useCatalogue, useShelf, useTrial } from "../api/queries";
import { AssetSymptom } from "../ui/AssetSymptom";
import { Empty } from "../ui/Empty";
import { RunsheetList } from "../ui/RunsheetList";
import { TraceList } from "../ui/TraceList";
import { Trouble } from "../ui/Trouble";
import { PlansTable } from "./PlansTable";

/** Match: when each released plan applies, and what an order would get, with the reason. */
export function MatchPage() {
  const [search, setSearch] = useSearchParams();
  const assets = useAssets();
  const catalogue = useCatalogue();
  const shelf = useShelf();
  const asset = search.get("asset");
  const symptom = search.get("symptom");
  const trial = useTrial(asset, symptom);
  const set = (key: string) => (value: string | null) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      if (value) next.set(key, value);
      else next.delete(key);
      return next;
    });
  const chosen = assets.data?.find((a) => a.id === asset);

  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="inner">
          <h1>When each work plan applies</h1>
          <PlansTable incidents={shelf.data ?? []} catalogue={catalogue.data} trace={trial.data?.trace} />
          {trial.data && (
            <>
              <h2 style={{ marginTop: 22 }}>
                The runsheet {chosen?.name}, {chosen?.site.name} would get today
              </h2>
              {trial.data.runsheet.lines.length > 0 ? (
                <RunsheetList run={trial.data.runsheet} />
              ) : (
                <Empty title="Nothing applies">
                  Write a plan for it, or widen the applies-when of one that is one cell away.
                </Empty>
              )}
            </>
          )}
        </div>
      </main>
      <aside className="margin" aria-label="Try an order">
        <h2>Try an order</h2>
        <AssetSymptom
          assets={assets.data ?? []}
          symptoms={catalogue.data?.symptoms ?? []}
          asset={asset}
          symptom={symptom}
          onAsset={set("asset")}
          onSymptom={set("symptom")}
        />
        <hr className="rule" />
        {!asset || !symptom ? (
          <p className="soft">
            Choose an asset and a symptom to see which plans an order would get, and why.
          </p>
        ) : (
          <>
            <Trouble error={trial.error} />
            {trial.data?.incident_type && (
              <p>
                Incident type{" "}
                <Link to={`/author/${trial.data.incident_type}`}>{trial.data.incident_type_title}</Link>
              </p>
            )}
            {trial.data && <TraceList trace={trial.data.trace} />}
          </>
        )}
      </aside>
    </div>
  );
}
