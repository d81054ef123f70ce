import { Button, Popover, Select, Textarea, TextInput } from "@mantine/core";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { client, need } from "../api/client";
import {
  ordersChanged,
  useCatalogue,
  useOrder,
  useOrderChanges,
  useOrderTrace,
  useTechnicians,
} from "../api/queries";
import { mayWrite } from "../api/roles";
import type { OrderPage, Person } from "../api/types";
import { ChangeList } from "../ui/ChangeList";
import { calendarDay, count, dayTime, minutes, number } from "../ui/format";
import { needWords, partAmount, toolAmount } from "../ui/need-words";
import { OrderCosts } from "../ui/OrderCosts";
import { RunsheetList } from "../ui/RunsheetList";
import { TraceList } from "../ui/TraceList";
import { Trouble } from "../ui/Trouble";
import { useAct } from "../ui/use-act";
import { localInput } from "../ui/visit-times";
import { WaitingSheet } from "../ui/WaitingSheet";
import { ByHand } from "./ByHand";
import { LooseRecords } from "./LooseRecords";
import { PartsSentAhead } from "./PartsSentAhead";
import { PastFixes } from "./PastFixes";
import { SiteRecords } from "./SiteRecords";
import { VisitsOfOrder } from "./VisitsOfOrder";

/** One order: what it was issued, who goes and when, how far it has come. */
export function OrderSheet({ person }: { person: Person }) {
  const { order: id = "" } = useParams();
  const order = useOrder(id);
  if (!order.data) return <WaitingSheet error={order.error} />;
  return <Sheet page={order.data} person={person} />;
}

/** How a line that is not done is spoken of. */
const STATE_WORDS: Record<string, string> = {
  hidden: "not wanted",
  "open question": "by an answer",
  skipped: "left out",
};

function Sheet({ page, person }: { page: OrderPage; person: Person }) {
  const { line, terms } = page;
  const lists = useCatalogue().data;
  const trace = useOrderTrace(line.id);
  const besides = [
    ...terms.parts.map((need) => partAmount(lists?.parts, need.part, need.quantity)),
    ...terms.tools.map((need) => toolAmount(lists?.tools, need.tool, need.quantity)),
  ];
  const changes = useOrderChanges(line.id);
  const plans = person.role === "planner" || person.role === "approver";
  const waits = ["Logged", "Planned", "Return needed"].includes(line.state);
  const states = Object.fromEntries(
    page.run.progress.lines.map((l) => {
      const times = page.job.times[l.line];
      return [
        l.line,
        l.state === "done" && times ? `done, ${minutes(times.minutes)}` : (STATE_WORDS[l.state] ?? l.state),
      ];
    }),
  );
  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="head">
            <div>
              <div className="mono soft">
                {line.id} · {line.state.toLowerCase()} · logged {dayTime(line.logged_at)} by{" "}
                {page.logged_by_name}
              </div>
              <h1>
                {line.symptom_label}: {line.asset.name}, {line.site.name}
              </h1>
            </div>
            <div className="actions">
              {page.job.visits.length > 0 && (
                <Button variant="default" component={Link} to={`/review/jobs/${line.id}`}>
                  What was done
                </Button>
              )}
              <Button variant="default" onClick={() => window.print()}>
                Print job sheet
              </Button>
              {plans && waits && <Cancel id={line.id} />}
            </div>
          </div>
          <ul className="facts">
            <li>
              Asset <b>{line.asset.code}</b>, {line.asset.model}, serial {line.asset.serial}
            </li>
            <li>
              District <b>{line.site.district}</b>
            </li>
            <li>
              Planned <b className="planned">{minutes(line.planned_minutes)}</b>{" "}
              {terms.expected_minutes === null ? "without branches" : "as its type expects"}
            </li>
            {line.priority && (
              <li>
                Wanted <b>{line.priority.toLowerCase()}</b>
              </li>
            )}
            {page.category_name && (
              <li>
                Category <b>{page.category_name}</b>
              </li>
            )}
            {besides.length > 0 && (
              <li title="Wanted by its incident type besides what its steps want">
                Besides its steps <b>{besides.join(", ")}</b>
              </li>
            )}
            {charged(terms.charges) && (
              <li>
                Charges <b>{charged(terms.charges)}</b>
              </li>
            )}
            {line.incident_type && (
              <li>
                Incident type <Link to={`/author/${line.incident_type}`}>{line.incident_type}</Link>{" "}
                {page.incident_type_revision}
              </li>
            )}
          </ul>
          {line.report && <p>“{line.report}”</p>}
          {page.on_trial.map((taken) => (
            <p key={taken.trial} className="note">
              {trialWords(taken)}{" "}
              {mayWrite(person) && <Link to={`/refine/trials/${taken.trial}`}>The trial</Link>}
            </p>
          ))}
          {line.due_on && (
            <p className={line.is_overdue ? "note bad" : undefined}>
              Routine visit, {line.is_overdue ? "overdue: it was to be made" : "to be made"} by{" "}
              {calendarDay(line.due_on)}.
            </p>
          )}
          {plans && waits && <PlanVisit page={page} />}
          {!waits && line.technician_name && (
            <p>
              With <b>{line.technician_name}</b>
              {line.planned_for && `, planned for ${dayTime(line.planned_for)}`}
            </p>
          )}
          {page.clock_errors.length > 0 && <p className="note">{clockWords(page.clock_errors)}</p>}
          {page.coming.length > 0 && (
            <p className="note">
              {count(page.coming.length, "picture")} on the way:{" "}
              {page.coming.map((u) => `${Math.floor((100 * u.have) / u.size)} %`).join(", ")} here.
            </p>
          )}
          <LooseRecords lines={page.loose} names={namesOf(page)} />
          <SiteRecords order={page.line.id} />
          <PartsSentAhead page={page} plans={plans} />
          <VisitsOfOrder page={page} plans={plans} />
          {page.doubts.map((doubt) => (
            <p key={doubt.line + doubt.sentence} className="note bad">
              {doubt.sentence}
            </p>
          ))}
          <ByHand page={page} />
          <OrderCosts page={page} />
          <h2 className="apart">
            Runsheet, frozen when the order was {page.by_hand.length ? "last changed by hand" : "logged"}
          </h2>
          {page.run.runsheet.lines.length > 0 ? (
            <RunsheetList
              run={page.run.runsheet}
              states={page.job.visits.length ? states : undefined}
              needs={(line) => needWords(line, lists)}
            />
          ) : (
            <p className="note">
              No released plan applied when it was logged. The technician works without guidance and records
              notes, cause and remedy.
            </p>
          )}
        </div>
      </main>
      <aside className="margin" aria-label="Why these plans, and what was done to the order">
        <PastFixes order={page.line.id} />
        <Trouble error={trace.error} />
        {trace.data && <TraceList trace={trace.data} />}
        <h2 className="apart">What was done from the desk</h2>
        <ChangeList changes={changes.data?.changes} empty="Nothing since it was logged." />
      </aside>
    </div>
  );
}

/** The steps and questions of an order's runsheet, by identity. */
const namesOf = (page: OrderPage) =>
  new Map(
    page.run.runsheet.lines.flatMap((line) => [
      [line.id, line.text] as const,
      ...line.questions.map((q) => [q.id, q.label] as const),
    ]),
  );

/** How far the clocks of devices were off, in words. */
function clockWords(seconds: number[]): string {
  const worst = seconds.reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a));
  const off = minutes(Math.abs(worst) / 60);
  return `The clock of the device was ${off} ${worst > 0 ? "fast" : "slow"}. Times are put right by it.`;
}

/** Which revision the order has because of a trial, in words. */
function trialWords({ document, letter, tried }: OrderPage["on_trial"][number]): string {
  return tried
    ? `Logged during a trial: it has revision ${letter} of ${document}, the one tried.`
    : `Logged during a trial of ${document} ${letter}: it has the revision that was in force, to compare with.`;
}

function charged(charges: OrderPage["terms"]["charges"]): string {
  const told = [
    charges.labour_per_hour > 0 && `${number(charges.labour_per_hour)} ${charges.currency} an hour`,
    charges.fixed > 0 && `${number(charges.fixed)} ${charges.currency} fixed`,
  ];
  return told.filter(Boolean).join(", ");
}

function PlanVisit({ page }: { page: OrderPage }) {
  const technicians = useTechnicians();
  const { act, isBusy } = useAct(ordersChanged);
  const [technician, setTechnician] = useState<string | null>(page.line.technician);
  const [when, setWhen] = useState(() =>
    localInput(page.line.planned_for ?? new Date(Date.now() + 3_600_000).toISOString()),
  );
  const district = page.line.site.district;

  const plan = () =>
    act(
      () =>
        need(
          client.POST("/api/v1/orders/{order_id}/visit", {
            params: { path: { order_id: page.line.id } },
            body: { technician: technician ?? "", planned_for: new Date(when).toISOString() },
          }),
        ),
      `${page.line.id} is planned.`,
    );

  return (
    <div className="actions" style={{ alignItems: "flex-end" }}>
      <Select
        label="Technician"
        searchable
        w={230}
        data={(technicians.data ?? []).map((t) => ({
          value: t.id,
          label: `${t.name}, ${t.district}${t.district === district ? " (here)" : ""}`,
        }))}
        value={technician}
        onChange={setTechnician}
      />
      <TextInput
        label="When"
        type="datetime-local"
        value={when}
        onChange={(e) => setWhen(e.currentTarget.value)}
      />
      <Button disabled={!technician || !when} loading={isBusy} onClick={plan}>
        {page.line.state === "Logged" ? "Plan the visit" : "Plan it anew"}
      </Button>
    </div>
  );
}

function Cancel({ id }: { id: string }) {
  const { act, isBusy } = useAct(ordersChanged);
  const [reason, setReason] = useState("");
  const cancel = () =>
    act(() =>
      need(
        client.POST("/api/v1/orders/{order_id}/cancellation", {
          params: { path: { order_id: id } },
          body: { reason },
        }),
      ),
    );
  return (
    <Popover position="bottom-end" width={280} trapFocus>
      <Popover.Target>
        <Button variant="default">Cancel order</Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Textarea
          label="Why it is cancelled"
          value={reason}
          onChange={(e) => setReason(e.currentTarget.value)}
        />
        <Button mt="xs" color="bad" disabled={!reason.trim()} loading={isBusy} onClick={cancel}>
          Cancel it
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
