import { Button } from "@mantine/core";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { keys } from "../api/queries";
import type { LooseLine } from "../api/types";
import { useChange } from "../api/use-change";
import { eventWords } from "../ui/event-words";
import { count, dayTime } from "../ui/format";
import { groupsOf, type LooseGroup } from "../ui/loose-groups";
import { Trouble } from "../ui/Trouble";
import { SetAside } from "./SetAside";

const CHANGED = [keys.loose, keys.orders, keys.inbox, keys.waiting, ["order"], ["evidence"]];

interface LooseProps {
  lines: LooseLine[];
  /** Steps and questions by identity, where their order is open. */
  names?: Map<string, string>;
}

const NO_NAMES = new Map<string, string>();

/** What the field recorded and jobs could not take in: why, and what is to become of it. */
export function LooseRecords({ lines, names = NO_NAMES }: LooseProps) {
  const open = lines.filter((line) => !line.decision);
  const decided = groupsOf(lines.filter((line) => line.decision));
  if (lines.length === 0) return null;
  return (
    <section aria-label="Kept beside the order" className="note">
      {open.length > 0 && (
        <>
          <h2 className="flush">{count(open.length, "record")} to decide on</h2>
          {groupsOf(open).map((group) => (
            <OpenGroup key={group.key} group={group} names={names} />
          ))}
        </>
      )}
      {decided.length > 0 && (
        <details>
          <summary>{count(lines.length - open.length, "record")} decided on</summary>
          {decided.map((group) => {
            const first = group.lines[0];
            return (
              <div key={group.key} className="under">
                <What group={group} names={names} />
                <div className="soft">
                  {first?.decided_at && dayTime(first.decided_at)}, {first?.decided_by_name}:{" "}
                  {first?.decision}
                  {first?.reason && `, ${first.reason}`}
                </div>
              </div>
            );
          })}
        </details>
      )}
    </section>
  );
}

function What({ group, names }: { group: LooseGroup; names: Map<string, string> }) {
  const events = group.lines.flatMap((line) => line.events);
  return (
    <>
      {names === NO_NAMES && (
        <>
          <Link to={`/run/${group.order}`}>{group.order}</Link>,{" "}
        </>
      )}
      {group.person}: not taken in, because {group.why}
      <details>
        <summary>
          {count(group.lines.length, "record")}, received {dayTime(group.lines[0]?.received_at ?? "")}
        </summary>
        <ul>
          {events.map((event) => (
            <li key={`${event.at} ${event.kind} ${JSON.stringify(event)}`}>
              {dayTime(event.at)}, {eventWords(event, names)}
            </li>
          ))}
        </ul>
      </details>
    </>
  );
}

function OpenGroup({ group, names }: { group: LooseGroup; names: Map<string, string> }) {
  const decide = useChange(
    (body: { decision: "taken in" | "set aside"; reason: string }) =>
      need(
        client.POST("/api/v1/loose-records/decisions", {
          body: { submissions: group.lines.map((line) => line.submission), ...body },
        }),
      ),
    CHANGED,
  );
  return (
    <div style={{ marginBottom: 12 }}>
      <What group={group} names={names} />
      <Trouble error={decide.error} />
      <div style={{ display: "flex", gap: 8, marginTop: 8 }}>
        <Button
          size="compact-sm"
          loading={decide.isPending}
          onClick={() => decide.mutate({ decision: "taken in", reason: "" })}
        >
          Take {group.lines.length === 1 ? "it" : `all ${group.lines.length}`} in
        </Button>
        <SetAside onSet={(reason) => decide.mutate({ decision: "set aside", reason })} />
      </div>
    </div>
  );
}
