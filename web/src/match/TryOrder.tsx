import { Select, Switch, TextInput } from "@mantine/core";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { useAssets, useCatalogue, useChoices, useOrders, useShelf } from "../api/queries";
import type { Matched } from "../api/types";
import { AssetSymptom } from "../ui/AssetSymptom";
import { count, minutes } from "../ui/format";
import { PHASE_COLOUR } from "../ui/phases";
import { TraceList } from "../ui/TraceList";
import { Trouble } from "../ui/Trouble";
import type { TriedOrderState } from "./use-tried-order";

/** Try an order: choose one, see what it would get, in which order, and why or why not. */
export function TryOrder({
  state,
  result,
  error,
  draftOf,
  children,
}: {
  state: TriedOrderState;
  result: Matched | undefined;
  error: unknown;
  /** The draft that can be tried in place of what is in force. */
  draftOf: string | null;
  children?: ReactNode;
}) {
  const assets = useAssets().data ?? [];
  const symptoms = useCatalogue().data?.symptoms ?? [];
  const [sought, setSought] = useState("");
  const orders = useOrders({ words: sought }).data?.pages.flatMap((p) => p.rows) ?? [];
  const shelf = useShelf().data ?? [];
  const priorities = useChoices().data?.priorities ?? [];
  const { values, set } = state;
  return (
    <aside className="margin" aria-label="Try an order">
      <h2>Try an order</h2>
      {draftOf && (
        <Switch
          label={`With ${draftOf} in place of what is in force`}
          checked={values.draft}
          onChange={(e) => set("draft", e.currentTarget.checked ? null : "no")}
          my={6}
        />
      )}
      {!values.order && (
        <>
          <AssetSymptom
            assets={assets}
            symptoms={symptoms}
            asset={values.asset}
            symptom={values.symptom}
            onAsset={(v) => set("asset", v)}
            onSymptom={(v) => set("symptom", v)}
          />
          <details className="more-facts" open={Boolean(values.day || values.priority || values.type)}>
            <summary>Day, priority, incident type</summary>
            <TextInput
              type="date"
              label="Day it comes in (today, if empty)"
              value={values.day ?? ""}
              onChange={(e) => set("day", e.currentTarget.value || null)}
            />
            <Select
              label="How soon"
              placeholder="Not said"
              clearable
              data={priorities}
              value={values.priority}
              onChange={(v) => set("priority", v)}
            />
            <Select
              label="Incident type"
              placeholder="By its rows"
              clearable
              searchable
              data={shelf.map((row) => ({ value: row.document, label: row.title }))}
              value={values.type}
              onChange={(v) => set("type", v)}
            />
          </details>
        </>
      )}
      <Select
        label={values.order ? "An order that came in" : "or an order that came in"}
        mt={6}
        placeholder="Type a number, an asset or a site"
        searchable
        clearable
        limit={60}
        filter={({ options }) => options}
        onSearchChange={(words) => setSought(words.split(",")[0]?.trim() ?? "")}
        data={orders.map((o) => ({
          value: o.id,
          label: `${o.id}, ${o.symptom_label}, ${o.asset.name}, ${o.site.name}`,
        }))}
        value={values.order}
        onChange={(v) => set("order", v)}
      />
      <hr className="rule" />
      <Trouble error={error} />
      {!result && !error && (
        <p className="soft">Choose an asset and a symptom, or an order, to see what it gets and why.</p>
      )}
      {result && <Result result={result} />}
      {children}
    </aside>
  );
}

function Result({ result }: { result: Matched }) {
  const { match, runsheet } = result;
  return (
    <>
      {match.refused.map((pair) => (
        <p key={pair.sentence} className="note bad" role="alert">
          {pair.sentence} Such an order is not issued until one of them is left out.
        </p>
      ))}
      <h2>What it gets</h2>
      {result.incident_type && (
        <p className="near">
          As <Link to={`/author/${result.incident_type}`}>{result.incident_type_title}</Link>
          {result.terms.expected_minutes !== null && (
            <>
              , <span className="planned">{minutes(result.terms.expected_minutes)}</span> expected
            </>
          )}
        </p>
      )}
      {match.taken.length === 0 && <p className="soft">No document. This is a gap.</p>}
      <ul className="plain-list">
        {match.taken.map((t) => (
          <li key={t.document}>
            <Link to={`/author/documents/${t.document}`}>{t.title}</Link>{" "}
            <span className="soft">{t.because.join(", ")}</span>
          </li>
        ))}
      </ul>
      {match.notes.map((note) => (
        <p key={note} className="soft near">
          {note}
        </p>
      ))}
      {runsheet.lines.length > 0 && (
        <>
          <h2 className="apart">The runsheet, {count(runsheet.lines.length, "step")}</h2>
          <ol className="stem-short">
            {runsheet.lines.map((line) => (
              <li
                key={line.id}
                className={line.under ? "under" : undefined}
                style={{ "--phase": PHASE_COLOUR[line.phase] } as React.CSSProperties}
              >
                {line.text} <span className="soft">{line.phase}</span>
                {line.when && <small>when {line.when}</small>}
                {line.asked_by.length > 1 && (
                  <small>asked for by {line.asked_by.join(" and ")}, done once</small>
                )}
              </li>
            ))}
          </ol>
        </>
      )}
      <TraceList trace={result.trace} nRows={result.n_rows} />
    </>
  );
}
