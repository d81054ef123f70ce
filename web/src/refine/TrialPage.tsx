import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, keys, useCache } from "../api/queries";
import type { Person, TrialView } from "../api/types";
import { useChange } from "../api/use-change";
import { AskFirst } from "../draft/AskFirst";
import { Figure } from "../ui/Figure";
import { count, dayYear, number, shareText } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { WaitingSheet } from "../ui/WaitingSheet";
import { TrialPlot } from "./TrialPlot";
import { howItEnded, toWhom } from "./trial-words";
import "./trial.css";

/** A revision on trial: what it has shown so far, and what is decided on it. */
export function TrialPage({ person }: { person: Person }) {
  const { trial = "" } = useParams();
  const found = useQuery({
    queryKey: [...keys.trials, "one", trial],
    queryFn: () => need(client.GET("/api/v1/trials/{trial}", { params: { path: { trial } } })),
  });
  if (!found.data) return <WaitingSheet error={found.error} />;
  return <Sheet view={found.data} person={person} />;
}

function Sheet({ view, person }: { view: TrialView; person: Person }) {
  const { trial, reading, tried, others } = view;
  const now = reading.course.at(-1);
  const n = reading.n_tried + reading.n_others;
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="head">
          <div>
            <div className="mono soft">
              <Link to={`/author/${view.incident_type}?plan=${trial.document}`}>{trial.document}</Link> ·
              revision {trial.letter} beside {trial.before}
            </div>
            <h1>{view.title}: trial</h1>
            <div className="soft">
              {toWhom(view)}, begun on {dayYear(trial.began_at)} by {view.began_by_name}.{" "}
              {howItEnded(view) && `${howItEnded(view)}.`}
            </div>
          </div>
          <Link
            to={`/refine/${view.incident_type}/${trial.document}?older=${trial.before}&newer=${trial.letter}`}
          >
            What it changes
          </Link>
        </div>
        <p className="note" role="status">
          {reading.sentence}
        </p>
        <div className="figures">
          {now && (
            <Figure
              label="Minutes a job"
              value={signed(now.value)}
              beside={`${signed(now.low)} to ${signed(now.high)}, ${count(now.n_jobs, "job")}`}
            />
          )}
          <Figure
            label="Jobs so far"
            value={number(n)}
            beside={`${n > trial.most_jobs ? "planned were" : "of"} at most ${number(trial.most_jobs)}`}
          />
          <Figure
            label={`Orders with ${tried.letter}`}
            value={number(tried.n_orders)}
            beside={`several visits ${shareText(tried.repeat_visits)}`}
          />
          <Figure
            label={`Orders with ${others.letter}`}
            value={number(others.n_orders)}
            beside={`several visits ${shareText(others.repeat_visits)}`}
          />
        </div>
        <TrialPlot reading={reading} worth={trial.worth_minutes} mostJobs={trial.most_jobs} />
        {!trial.ended_at && person.role === "approver" && <Deciding view={view} />}
        {!trial.ended_at && person.role !== "approver" && (
          <p className="soft">An approver who did not write it releases it to all, or withdraws it.</p>
        )}
        <p className="soft">
          Minutes on site over what was to be expected of a job of the same model, symptom and cause, in its
          district, by who carried it out, learned from jobs before the trial. The range holds 95 % after
          every job at once, so that a trial may be ended as soon as it leaves out no change.{" "}
          {trial.districts.length > 0 &&
            "Districts were chosen, not drawn: what else has changed in them since the trial began is counted too."}
        </p>
      </main>
    </div>
  );
}

function Deciding({ view }: { view: TrialView }) {
  const { trial } = view;
  const cache = useCache();
  const [asked, setAsked] = useState<"released" | "withdrawn" | null>(null);
  const end = useChange(
    (values: { end: "released" | "withdrawn"; reason: string }) =>
      need(
        client.POST("/api/v1/trials/{trial}/end", { params: { path: { trial: trial.id } }, body: values }),
      ),
    [keys.trials],
  );
  const go = (values: { end: "released" | "withdrawn"; reason: string }) => {
    setAsked(null);
    end.mutate(values, { onSuccess: () => guidanceChanged(cache) });
  };
  return (
    <>
      <Trouble error={end.error} />
      <div className="actions">
        <Button loading={end.isPending} onClick={() => setAsked("released")}>
          Release {trial.letter} to all
        </Button>
        <Button variant="default" disabled={end.isPending} onClick={() => setAsked("withdrawn")}>
          Withdraw {trial.letter}
        </Button>
      </div>
      {asked === "released" && (
        <AskFirst
          title={`Release ${trial.document} ${trial.letter} to all`}
          act="Release it"
          harmless
          onClose={() => setAsked(null)}
          onGo={() => go({ end: "released", reason: "" })}
        >
          <p>{view.reading.sentence}</p>
          <p>All orders to come get it; orders that have {trial.before} keep it.</p>
        </AskFirst>
      )}
      {asked === "withdrawn" && (
        <AskFirst
          title={`Withdraw ${trial.document} ${trial.letter}`}
          act="Withdraw it"
          reason="Why it is not released"
          onClose={() => setAsked(null)}
          onGo={(reason) => go({ end: "withdrawn", reason })}
        >
          <p>
            All orders to come get {trial.before}; orders that have {trial.letter} keep it.
          </p>
        </AskFirst>
      )}
    </>
  );
}

function signed(value: number): string {
  const rounded = Math.round(value);
  return rounded === 0 ? "0" : `${rounded > 0 ? "+" : "−"}${Math.abs(rounded)}`;
}
