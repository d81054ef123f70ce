import { Button } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { ordersChanged, useCache, useHelpThreads, useInbox, useShelf } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { count, dayTime, minutes, percent, shareText } from "../ui/format";
import { More } from "../ui/More";
import { Shelf } from "../ui/Shelf";
import { Trouble } from "../ui/Trouble";

/** Review: completions to read, and the incident types with what the field made of them. */
export function InboxPage({ person }: { person: Person }) {
  const inbox = useInbox();
  const shelf = useShelf();
  const help = (useHelpThreads().data ?? []).filter((row) => row.waits_for_office);
  const rows = inbox.data?.pages.flatMap((p) => p.rows) ?? [];
  const plain = inbox.data?.pages[0]?.plain ?? [];
  const writes = mayWrite(person);
  const cache = useCache();
  const marking = useMutation({
    mutationFn: (orders: string[]) =>
      need(client.POST("/api/v1/completions/readings", { body: { orders: orders.slice(0, 500) } })),
    onSettled: () => ordersChanged(cache),
  });
  const total = inbox.data?.pages[0]?.total ?? 0;
  return (
    <div className="bench no-margin">
      <Shelf
        label="Incident types"
        items={(shelf.data ?? []).map((row) => ({
          id: row.document,
          title: row.title,
          group: row.group,
          to: `/review/${row.document}`,
          figure: row.fixed_first_time.share === null ? "–" : `${percent(row.fixed_first_time.share)}%`,
          figureTitle: `Fixed first time: ${shareText(row.fixed_first_time)}`,
        }))}
      />
      <main className="sheet" id="sheet">
        <div className="inner">
          <h1>To read, {total}</h1>
          <p className="flush">
            <Link to="/review/routine">Routine work: done, and not done</Link>
          </p>
          {help.length > 0 && (
            <p className="note">
              <Link to={`/review/help/${help[0]?.thread}`}>
                {count(help.length, "question")} from site {help.length === 1 ? "waits" : "wait"} for an
                answer
              </Link>
              , the first since {dayTime(help[0]?.asked_at ?? "")}: {help[0]?.step || help[0]?.asset}.
            </p>
          )}
          <Trouble error={inbox.error} />
          {writes && plain.length > 0 && (
            <p>
              <Button variant="default" loading={marking.isPending} onClick={() => marking.mutate(plain)}>
                Mark {plain.length} with nothing unusual as read
              </Button>
            </p>
          )}
          <Trouble error={marking.error} />
          {inbox.data && rows.length === 0 ? (
            <Empty title="Everything is read">
              Finished jobs appear here. To see all jobs of an incident type together, choose it on the left.
            </Empty>
          ) : (
            <table className="rows under">
              <thead>
                <tr>
                  <th>Order</th>
                  <th>Symptom, asset</th>
                  <th>Technician</th>
                  <th>Finished</th>
                  <th className="num unbroken">On site</th>
                  <th>Why it stands here</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((row) => (
                  <tr key={row.line.id}>
                    <td className="mono unbroken">
                      <Link to={`/review/jobs/${row.line.id}`}>{row.line.id}</Link>
                    </td>
                    <td>
                      {row.line.symptom_label}
                      <div className="soft">
                        {row.line.asset.name}, {row.line.site.name}
                      </div>
                    </td>
                    <td>{row.line.technician_name}</td>
                    <td>{row.line.finished_at && dayTime(row.line.finished_at)}</td>
                    <td className="num unbroken">
                      {row.minutes_on_site === null ? (
                        <span title="Times of a visit cannot be">doubtful</span>
                      ) : (
                        minutes(row.minutes_on_site)
                      )}
                    </td>
                    <td>
                      {row.reasons.length > 0 ? (
                        row.reasons.join(", ")
                      ) : (
                        <span className="soft">nothing unusual</span>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <More shown={rows.length} total={total} what="job" going={inbox} />
        </div>
      </main>
    </div>
  );
}
