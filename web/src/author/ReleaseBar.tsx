import { Button, Menu, Popover, Textarea } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { IconDots } from "@tabler/icons-react";
import { useState } from "react";
import { client, need } from "../api/client";
import { guidanceChanged, useCache } from "../api/queries";
import type { IncidentTypePage, Person, PlanView } from "../api/types";
import { HistoryDrawer } from "./HistoryDrawer";

type Move = "send" | "give-back" | "release";

/** What may be done with the revision as it stands: begin, send, give back, release. */
export function ReleaseBar({
  page,
  plan,
  person,
  onBegin,
  onDiscard,
}: {
  page: IncidentTypePage;
  plan: PlanView | undefined;
  person: Person;
  onBegin: () => void;
  onDiscard: () => void;
}) {
  const cache = useCache();
  const [history, setHistory] = useState(false);
  const writes = person.role === "engineer" || person.role === "approver";
  const drafts = page.open_states.includes("Draft");
  const waits = page.open_states.includes("In review");
  if (!plan) return null;

  async function move(which: Move, note: string) {
    const options = { params: { path: { document: page.incident_type.document } } };
    try {
      const moved = await need(
        which === "release"
          ? client.POST("/api/incident-types/{document}/release", options)
          : which === "send"
            ? client.POST("/api/incident-types/{document}/send", { ...options, body: { note } })
            : client.POST("/api/incident-types/{document}/give-back", { ...options, body: { note } }),
      );
      const words = { send: "Sent for review", "give-back": "Given back", release: "Released" }[which];
      notifications.show({ message: `${words}: ${moved.documents.join(", ")}.` });
    } catch (error) {
      notifications.show({ color: "bad", message: (error as Error).message, autoClose: 12_000 });
    }
    guidanceChanged(cache);
  }

  return (
    <>
      {writes && !drafts && !waits && <Button onClick={onBegin}>Begin revision {plan.next_letter}</Button>}
      {writes && drafts && (
        <WithNote
          label="Send for review"
          ask="What changed, for the one who reads it"
          onGo={(n) => move("send", n)}
        />
      )}
      {waits && person.role === "approver" && (
        <>
          <WithNote
            label="Give back"
            quiet
            needed
            ask="What should change"
            onGo={(n) => move("give-back", n)}
          />
          <Button onClick={() => move("release", "")}>Release</Button>
        </>
      )}
      {waits && person.role !== "approver" && <span className="soft">Waits for a second person.</span>}
      <Menu position="bottom-end">
        <Menu.Target>
          <Button variant="default" px={8} aria-label="More about this revision">
            <IconDots size={17} />
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => setHistory(true)}>Revisions and who changed what</Menu.Item>
          <Menu.Item onClick={() => window.print()}>Print the plan</Menu.Item>
          {writes && plan.state === "Draft" && (
            <Menu.Item color="bad" onClick={onDiscard}>
              Throw draft {plan.letter} away
            </Menu.Item>
          )}
        </Menu.Dropdown>
      </Menu>
      <HistoryDrawer
        incident={page.incident_type.document}
        plan={plan}
        shown={history}
        onClose={() => setHistory(false)}
      />
    </>
  );
}

function WithNote({
  label,
  ask,
  quiet,
  needed,
  onGo,
}: {
  label: string;
  ask: string;
  quiet?: boolean;
  needed?: boolean;
  onGo: (note: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [note, setNote] = useState("");
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" width={300} trapFocus>
      <Popover.Target>
        <Button variant={quiet ? "default" : "filled"} onClick={() => setOpen(!open)}>
          {label}
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Textarea
          label={ask}
          value={note}
          minRows={2}
          autosize
          onChange={(e) => setNote(e.currentTarget.value)}
        />
        <Button
          mt="xs"
          disabled={needed && !note.trim()}
          onClick={() => {
            setOpen(false);
            onGo(note);
            setNote("");
          }}
        >
          {label} now
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
