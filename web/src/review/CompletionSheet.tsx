import { Button } from "@mantine/core";
import { Link, useNavigate, useParams } from "react-router";
import { client, need } from "../api/client";
import { ordersChanged, useCompletion } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { CompletionPage, Person, RunsheetLine } from "../api/types";
import { dayTime, minutes, number, percent, time } from "../ui/format";
import { OrderCosts } from "../ui/OrderCosts";
import { phaseWord } from "../ui/phases";
import { useAct } from "../ui/use-act";
import { VisitList } from "../ui/VisitList";
import { WaitingSheet } from "../ui/WaitingSheet";
import { AskTechnician } from "./AskTechnician";
import { PhotoOnSite } from "./PhotoOnSite";
import "./review.css";

/** A completion in full: every answer, time and picture, and what differed from the plan. */
export function CompletionSheet({ person }: { person: Person }) {
  const { order: id = "" } = useParams();
  const completion = useCompletion(id);
  if (!completion.data) return <WaitingSheet error={completion.error} />;
  return <Sheet completion={completion.data} person={person} />;
}

function Sheet({ completion, person }: { completion: CompletionPage; person: Person }) {
  const { page } = completion;
  const { line, job } = page;
  const { act, isBusy } = useAct(ordersChanged);
  const navigate = useNavigate();
  const writes = mayWrite(person);

  async function read() {
    const isRead = await act(async () => {
      await need(
        client.POST("/api/v1/completions/{order_id}/reading", {
          params: { path: { order_id: line.id } },
          body: { note: "" },
        }),
      );
      return true;
    });
    if (isRead) void navigate("/review");
  }

  const wanted = page.run.progress.lines.filter((l) => l.state !== "hidden" && l.state !== "open question");
  const hidden = page.run.progress.lines.length - wanted.length;
  const names = new Map(page.run.runsheet.lines.map((l) => [l.id, l]));
  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="head">
            <div>
              <div className="mono soft">
                <Link to={`/run/${line.id}`}>{line.id}</Link> · {line.state.toLowerCase()}
                {page.reviewed_by_name && ` by ${page.reviewed_by_name}`} · {line.plans.join("; ")}
              </div>
              <h1>
                {line.symptom_label}: {line.asset.name}, {line.site.name}
              </h1>
            </div>
            <div className="actions">
              {line.incident_type && (
                <Button variant="default" component={Link} to={`/review/${line.incident_type}`}>
                  All its jobs
                </Button>
              )}
              {writes && line.state === "Finished" && (
                <Button loading={isBusy} onClick={read}>
                  Mark as read
                </Button>
              )}
            </div>
          </div>
          <ul className="facts">
            <li>
              Technician <b>{line.technician_name}</b>
            </li>
            <li>
              On site{" "}
              <b className="taken">
                {completion.minutes_on_site === null ? "cannot be told" : minutes(completion.minutes_on_site)}
              </b>{" "}
              in {job.visits.length} {job.visits.length === 1 ? "visit" : "visits"}
            </li>
            <li>
              Cause <b>{completion.cause || "not coded"}</b>
            </li>
            <li>
              Remedy <b>{completion.remedy || "not coded"}</b>
            </li>
            <li>
              Parts <b>{completion.parts_used.join(", ") || "none"}</b>
            </li>
          </ul>
          <table className="rows">
            <thead>
              <tr>
                <th>Phase</th>
                <th>Step</th>
                <th>Answers</th>
                <th className="num">Planned</th>
                <th className="num">Taken</th>
                <th className="num">At</th>
              </tr>
            </thead>
            <tbody>
              {wanted.map((progress) => {
                const sheetLine = names.get(progress.line);
                return sheetLine ? (
                  <CompletedLine
                    key={progress.line}
                    line={sheetLine}
                    state={progress.state}
                    completion={completion}
                  />
                ) : null;
              })}
            </tbody>
          </table>
          {hidden > 0 && <p className="soft">{hidden} more steps were not wanted with these answers.</p>}
          {job.notes.length > 0 && (
            <>
              <h2 className="apart">Notes</h2>
              {job.notes.map((note) => (
                <p key={note.at + note.text} className="near">
                  “{note.text}” <span className="soft">{dayTime(note.at)}</span>
                </p>
              ))}
            </>
          )}
          <OrderCosts page={page} />
        </div>
      </main>
      <aside className="margin" aria-label="What differed from the plan">
        <h2>What differed from the plan</h2>
        {completion.departures.length === 0 && <p className="soft">Nothing: it went as written.</p>}
        {completion.departures.map((d) => (
          <div
            key={d.kind + d.line + d.sentence}
            className={["out of limit", "finding", "doubtful time"].includes(d.kind) ? "note bad" : "note"}
          >
            <div className="soft">{d.kind}</div>
            {d.sentence}
          </div>
        ))}
        {completion.help.length > 0 && (
          <>
            <h2 className="apart">Help asked</h2>
            {completion.help.map((thread) => (
              <p key={thread.thread} className="near">
                <Link to={`/review/help/${thread.thread}`}>{thread.step || "The whole job"}</Link>: “
                {thread.messages[0]?.text || "a picture"}”{" "}
                <span className="soft">
                  {thread.messages.length === 1 ? "no answer" : `${thread.messages.length - 1} said since`}
                </span>
              </p>
            ))}
          </>
        )}
        <AskTechnician completion={completion} writes={writes} />
        <Beside beside={job.beside} />
        <Guided guide={page.run.guide} cause={job.cause} />
        {page.written_back.length > 0 && (
          <>
            <h2 className="apart">Written back</h2>
            {page.written_back.map((back) => (
              <p key={back.field} className="near">
                {back.field}: <b>{back.after}</b> <span className="soft">was {back.before}</span>
              </p>
            ))}
          </>
        )}
        <h2 className="apart">Visits</h2>
        <VisitList visits={job.visits} arrivals={page.arrivals} />
      </aside>
    </div>
  );
}

function CompletedLine({
  line,
  state,
  completion,
}: {
  line: RunsheetLine;
  state: string;
  completion: CompletionPage;
}) {
  const { job, answers_in_words: words, run, photo_doubts } = completion.page;
  const times = job.times[line.id];
  const finished = state === "done" || job.past.done.includes(line.id);
  return (
    <tr>
      <td style={{ color: phaseWord(line.phase), fontWeight: 650 }}>{line.phase}</td>
      <td style={{ paddingLeft: line.under ? 16 : 0 }}>
        {line.text}
        {state === "skipped" && <div className="out">left out: {job.skipped[line.id]}</div>}
        {state === "due" && <div className="out">not done</div>}
        {state === "no longer asked" && (
          <div className="out">{pastWords(line, job)}, then no longer asked</div>
        )}
      </td>
      <td>
        {line.questions.map((question) => {
          const past = run.progress.lines.some((l) => l.line === line.id && l.past.includes(question.id));
          const answer = past ? job.past.answers[question.id] : job.answers[question.id];
          if (words[question.id] === undefined) return null;
          const outside = past
            ? run.progress.findings.find((f) => f.question === question.id)?.severity
            : run.consequences[question.id]?.severity;
          if (question.kind === "photo" || question.kind === "signature")
            return (
              <div key={question.id}>
                <PhotoOnSite
                  id={String(answer)}
                  alt={`${question.label}, ${question.kind === "photo" ? "as taken" : "as signed"} on site`}
                  marks={job.marks[String(answer)] ?? []}
                />
                {photo_doubts[String(answer)] && <div className="out">{photo_doubts[String(answer)]}</div>}
              </div>
            );
          if (question.kind === "tick" || question.kind === "safety") return null;
          return (
            <div key={question.id}>
              <span className="soft">{question.label}</span>{" "}
              <b className={outside ? "out" : ""}>{words[question.id]}</b>
              {outside && <span className="out"> {outside}</span>}
              {past && <span className="soft"> answered, then no longer asked</span>}
            </div>
          );
        })}
      </td>
      <td className="num">{number(line.minutes.likely)}</td>
      <td className="num">{finished && times ? number(times.minutes) : "–"}</td>
      <td className="num">{times?.finished_at ? time(times.finished_at) : ""}</td>
    </tr>
  );
}

/** What became of a line before a later answer closed it. */
function pastWords(line: RunsheetLine, job: CompletionPage["page"]["job"]): string {
  if (job.past.done.includes(line.id)) return "done";
  if (job.past.skipped[line.id] !== undefined) return `left out (${job.past.skipped[line.id]})`;
  return "begun";
}

/** What was seen and tried by the fault guide, and what chance it gave the cause that was coded in the end. */
function Guided({
  guide,
  cause,
}: {
  guide: CompletionPage["page"]["run"]["guide"];
  cause: string | null | undefined;
}) {
  const done = [...(guide?.checks ?? []), ...(guide?.remedies ?? [])].filter((step) => step.state !== "open");
  if (!guide || (done.length === 0 && !guide.none_of_these)) return null;
  const coded = guide.causes.find((one) => one.cause === cause);
  return (
    <section aria-label="Fault guide">
      <h2 className="apart">
        Fault guide <span className="mono soft">{`${guide.document} ${guide.revision}`}</span>
      </h2>
      {done.map((step) => (
        <p key={step.id} className="near">
          {step.label}: {step.state}
        </p>
      ))}
      {guide.none_of_these && <p className="near">None of these: “{guide.none_of_these}”</p>}
      {coded && (
        <p className="soft">
          It gave {coded.label.toLowerCase()} {percent(coded.before)} % beforehand and {percent(coded.now)} %
          in the end.
        </p>
      )}
    </section>
  );
}

/** What was recorded beside the steps: the customer, signatures, and what the office made of the rest. */
function Beside({ beside }: { beside: CompletionPage["page"]["job"]["beside"] }) {
  const { customer, signed } = beside;
  const settled = (one: { settled?: { decision: string; target: string; reason: string } | null }) =>
    one.settled
      ? `${one.settled.decision} ${one.settled.target || one.settled.reason}`
      : "waits for the office";
  const lines = [
    ...Object.values(beside.steps).map((s) => `Done beside the steps: ${s.text}, ${number(s.minutes)} min`),
    ...Object.values(beside.parts).map(
      (p) => `Part typed: ${number(p.quantity)} × “${p.text}”, ${settled(p)}`,
    ),
    ...Object.values(beside.equipment).map((e) => `Equipment found: ${e.name}, ${settled(e)}`),
    ...Object.values(beside.work).map(
      (w) => `Further work: ${w.text}, ${answered(w.accepted)}, ${settled(w)}`,
    ),
  ];
  if (!customer && signed.length === 0 && lines.length === 0) return null;
  return (
    <>
      <h2 className="apart">Beside the steps</h2>
      {customer && (
        <p className="near">
          Customer:{" "}
          {customer.rating !== null && customer.rating !== undefined && <b>{customer.rating} of 5 </b>}
          {customer.comment && `“${customer.comment}”`}
        </p>
      )}
      {signed.map((one) => (
        <p key={one.picture} className="near">
          Signed by {one.name}, {one.role} <span className="soft">{dayTime(one.at)}</span>
          <PhotoOnSite id={one.picture} alt={`Signature of ${one.name}`} marks={[]} />
        </p>
      ))}
      {lines.map((words) => (
        <p key={words} className="near">
          {words}
        </p>
      ))}
    </>
  );
}

const answered = (accepted: boolean | null | undefined) =>
  accepted === true ? "accepted" : accepted === false ? "declined" : "not answered";
