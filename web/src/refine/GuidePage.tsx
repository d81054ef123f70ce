import { Button } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, useCache } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { FaultGuideView, Person } from "../api/types";
import { useChange } from "../api/use-change";
import { Empty } from "../ui/Empty";
import { count, minutes, number, percent } from "../ui/format";
import { tellRefusal } from "../ui/use-act";
import { useAddress } from "../ui/use-address";
import { WaitingSheet } from "../ui/WaitingSheet";
import { OrderOfWork } from "./OrderOfWork";
import { OrderTree } from "./OrderTree";
import "./guide.css";

type Check = FaultGuideView["checks"][number];

/** The fault guide of an incident type: the one that is written, or what its closed jobs say where none is. */
export function GuidePage({ person }: { person: Person }) {
  const { incident = "" } = useParams();
  const [search, , putAll] = useAddress();
  const yes = search.get("yes")?.split("|").filter(Boolean) ?? [];
  const no = search.get("no")?.split("|").filter(Boolean) ?? [];
  const at = { path: { document: incident } };
  const written = useQuery({
    queryKey: ["guide-of", incident],
    queryFn: () => need(client.GET("/api/v1/incident-types/{document}/guide", { params: at })),
  });
  const found = useQuery({
    queryKey: ["fault-guide", incident, yes, no],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/fault-guide", {
          params: { ...at, query: { yes, no } },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: written.data?.id === "",
  });
  if (written.data?.id) return <Navigate to={`/refine/guides/${written.data.id}`} replace />;
  if (written.error || found.isPending || found.error)
    return <WaitingSheet error={written.error ?? found.error} />;
  const guide = found.data;
  const writes = mayWrite(person);
  if (!guide)
    return (
      <div className="bench only-sheet">
        <main className="sheet" id="sheet">
          <h1>Fault guide</h1>
          <Empty title="The closed jobs do not tell causes apart yet">
            <p>
              At least two causes with five jobs each are wanted, and a question of the Diagnose steps that
              comes out differently for them. <Link to={`/review/${incident}`}>Read the evidence</Link>
            </p>
            {writes && <Begin incident={incident} nJobs={0} />}
          </Empty>
        </main>
      </div>
    );

  function say(check: Check, value: boolean | null) {
    const without = (list: string[]) => list.filter((look) => look !== check.look);
    const next = { yes: without(yes), no: without(no) };
    if (value === true) next.yes.push(check.look);
    if (value === false) next.no.push(check.look);
    putAll({ yes: next.yes.join("|") || null, no: next.no.join("|") || null });
  }

  const mostBits = Math.max(0.01, ...guide.checks.map((check) => check.bits));
  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="head">
          <div>
            <div className="mono soft">
              <Link to={`/review/${incident}`}>{incident}</Link> · what{" "}
              {count(guide.work.n_jobs, "closed job")} say
            </div>
            <h1>{guide.title}: fault guide</h1>
          </div>
          <div className="actions">{writes && <Begin incident={incident} nJobs={guide.work.n_jobs} />}</div>
        </div>
        <p className="soft">
          No fault guide is written for it yet. This is what the closed jobs show on their own.
        </p>
        <div className="guide-sheet">
          <table className="rows guide-table">
            <thead>
              <tr>
                <th>Check</th>
                <th className="num">Min</th>
                <th>Sorts out</th>
                {guide.causes.map((cause) => (
                  <th key={cause.cause} className="num">
                    {cause.label}
                    <div className="soft mono">
                      {percent(cause.learned.value)} % ({percent(cause.learned.low)}–
                      {percent(cause.learned.high)})
                    </div>
                    <div className="guide-now" title={`${percent(cause.now)} % after what you marked`}>
                      <i style={{ width: `${cause.now * 100}%` }} />
                      <b className="mono">{percent(cause.now)} %</b>
                    </div>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {guide.checks.map((check) => (
                <tr key={check.look}>
                  <td>
                    {check.label}
                    <div className="guide-say">
                      <button
                        type="button"
                        aria-pressed={check.said === true}
                        onClick={() => say(check, check.said === true ? null : true)}
                      >
                        So
                      </button>
                      <button
                        type="button"
                        aria-pressed={check.said === false}
                        onClick={() => say(check, check.said === false ? null : false)}
                      >
                        Not so
                      </button>
                    </div>
                  </td>
                  <td className="num">{number(check.minutes)}</td>
                  <td title={`${check.bits.toFixed(2)} bits`}>
                    <span className="guide-bits">
                      <i style={{ width: `${(100 * check.bits) / mostBits}%` }} />
                    </span>{" "}
                    <span className="mono soft">{check.bits.toFixed(2)} bits</span>
                  </td>
                  {check.cells.map((cell, i) => (
                    <td
                      key={guide.causes[i]?.cause}
                      className="num"
                      title={`${percent(cell.value)} % (${percent(cell.low)}–${percent(cell.high)}) of ${count(cell.n, "job")}`}
                    >
                      {cell.n > 0 ? `${percent(cell.value)} %` : "never asked"}
                      <div className="soft mono">{cell.n > 0 && count(cell.n, "job")}</div>
                      <div className="guide-chance">
                        <i style={{ width: `${cell.n > 0 ? cell.value * 100 : 0}%` }} />
                      </div>
                    </td>
                  ))}
                </tr>
              ))}
              <tr>
                <td>Put right</td>
                <td />
                <td />
                {guide.causes.map((cause) => (
                  <td key={cause.cause} className="num">
                    {minutes(cause.minutes)}
                    <div className="soft">{cause.repair.split(", for ")[0]}</div>
                  </td>
                ))}
              </tr>
            </tbody>
          </table>
        </div>
        <OrderTree work={guide.work} />
      </main>
      <aside className="margin" aria-label="Order of work">
        <OrderOfWork
          work={guide.work}
          said={guide.checks.filter((check) => check.said !== null).length}
          onForget={() => putAll({ yes: null, no: null })}
        />
      </aside>
    </div>
  );
}

/** Begin the fault guide, from the closed jobs where they tell causes apart, or empty. */
function Begin({ incident, nJobs }: { incident: string; nJobs: number }) {
  const cache = useCache();
  const navigate = useNavigate();
  const begin = useChange(
    (fromJobs: boolean) =>
      need(
        client.POST("/api/v1/incident-types/{document}/guide", {
          params: { path: { document: incident } },
          body: { from_jobs: fromJobs },
        }),
      ),
    [],
  );
  const go = (fromJobs: boolean) =>
    begin.mutate(fromJobs, {
      onSuccess: (made) => {
        guidanceChanged(cache);
        void navigate(`/refine/guides/${made.id}`);
      },
      onError: tellRefusal,
    });
  return (
    <>
      {nJobs > 0 && (
        <Button loading={begin.isPending} onClick={() => go(true)}>
          Draft a guide from {count(nJobs, "job")}
        </Button>
      )}
      <Button variant="default" disabled={begin.isPending} onClick={() => go(false)}>
        Begin an empty one
      </Button>
    </>
  );
}
