import { Button, NumberInput, Select, Switch } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { keys, useLoads, useTakingAlong, useTechnicians } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person, TakingAlong, TakingAlongSet } from "../api/types";
import { useChange } from "../api/use-change";
import { Empty } from "../ui/Empty";
import { count, dayTime } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { WaitingSheet } from "../ui/WaitingSheet";

/** Which orders a phone takes along, so that they are carried out without a network, and what that weighs. */
export function TakenAlong({ person }: { person: Person }) {
  const held = useTakingAlong();
  if (!held.data) return <WaitingSheet error={held.error} />;
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="head">
            <div>
              <div className="soft">
                <Link to="/run">Orders</Link>
              </div>
              <h1>What phones take along</h1>
            </div>
          </div>
          <p className="soft">
            Pocket keeps these orders on the phone, with runsheet, asset, lists and pictures. Orders under way
            are always taken along. Less is better: what is not needed is cleared, but never with something
            unsent.
          </p>
          <Rule held={held.data} mayChange={mayWrite(person)} />
        </div>
      </main>
    </div>
  );
}

const DAYS = [
  { key: "days_back", label: "Days back" },
  { key: "days_ahead", label: "Days ahead" },
] as const;

function Rule({ held, mayChange }: { held: TakingAlongSet; mayChange: boolean }) {
  const [rule, setRule] = useState(held.rule);
  const technicians = useTechnicians();
  const [chosen, setChosen] = useState<string | null>(null);
  const technician = chosen ?? technicians.data?.[0]?.id ?? null;
  const loads = useLoads(technician, rule);
  const save = useChange(
    (body: TakingAlong) =>
      need(
        client.PUT("/api/v1/settings/taking-along", { params: { header: { "if-match": held.etag } }, body }),
      ),
    [keys.takingAlong],
  );
  const isChanged = JSON.stringify(rule) !== JSON.stringify(held.rule);
  const rows = loads.data?.orders ?? [];
  const taken = rows.filter((row) => row.taken);
  return (
    <>
      <div style={{ display: "flex", gap: 16, alignItems: "end", flexWrap: "wrap" }}>
        {DAYS.map(({ key, label }) => (
          <NumberInput
            key={key}
            label={label}
            w={110}
            min={0}
            max={60}
            disabled={!mayChange}
            value={rule[key]}
            onChange={(value) =>
              typeof value === "number" &&
              setRule({ ...rule, [key]: Math.max(0, Math.min(60, Math.round(value))) })
            }
          />
        ))}
        <Switch
          label="With the pictures of instructions"
          mb={8}
          disabled={!mayChange}
          checked={rule.pictures}
          onChange={(e) => setRule({ ...rule, pictures: e.currentTarget.checked })}
        />
        {mayChange && (
          <Button disabled={!isChanged} loading={save.isPending} onClick={() => save.mutate(rule)}>
            Set the rule
          </Button>
        )}
      </div>
      <Trouble error={save.error ?? loads.error} />
      {!mayChange && <p className="soft">Engineers and approvers set the rule.</p>}
      <div style={{ display: "flex", gap: 16, alignItems: "end", margin: "22px 0 6px" }}>
        <h2 className="flat">What it takes along now</h2>
        <Select
          aria-label="Technician"
          w={220}
          data={(technicians.data ?? []).map((t) => ({ value: t.id, label: t.name }))}
          value={technician}
          onChange={setChosen}
        />
      </div>
      {loads.data && rows.length === 0 && (
        <Empty title="Nothing is planned for this technician">Choose another.</Empty>
      )}
      {rows.length > 0 && (
        <>
          <p>
            <b>{count(taken.length, "order")}</b> of {rows.length}, {size(sum(taken))} on the phone
            {taken.length < rows.length && `; ${rows.length - taken.length} left out need a connection`}.
          </p>
          <table className="rows even">
            <thead>
              <tr>
                <th>Order</th>
                <th>Asset</th>
                <th>Planned for</th>
                <th>Goes along</th>
                <th className="num">Data</th>
                <th className="num">Pictures</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.line.id}>
                  <td className="mono">
                    <Link to={`/run/${row.line.id}`}>{row.line.id}</Link>
                  </td>
                  <td>
                    {row.line.symptom_label}: {row.line.asset.name}, {row.line.site.name}
                  </td>
                  <td>{row.line.planned_for ? dayTime(row.line.planned_for) : "not planned"}</td>
                  <td>{row.taken ? "yes" : "no, needs a connection"}</td>
                  <td className="num">{size(row.data_bytes)}</td>
                  <td className="num">{row.picture_bytes > 0 ? size(row.picture_bytes) : "–"}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="soft">
            Sizes are as kept on the phone; sent over the line, data is about an eighth of it.
          </p>
        </>
      )}
    </>
  );
}

const sum = (rows: { data_bytes: number; picture_bytes: number }[]) =>
  rows.reduce((all, row) => all + row.data_bytes + row.picture_bytes, 0);

const size = (bytes: number) =>
  bytes >= 1_000_000 ? `${(bytes / 1_000_000).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1000))} kB`;
