import { Button, Menu, Popover, Textarea, TextInput } from "@mantine/core";
import { IconDots } from "@tabler/icons-react";
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, useReleaseEffect } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person } from "../api/types";
import { dayYear } from "../ui/format";
import { placeOf } from "../ui/places";
import { useAct } from "../ui/use-act";
import { AskFirst } from "./AskFirst";
import { EffectList } from "./EffectList";
import { HistoryDrawer } from "./HistoryDrawer";
import { OnTrial } from "./OnTrial";
import type { RevisionHead } from "./revision-head";
import { TryFirst } from "./TryFirst";
import type { Discard } from "./use-discard";

type Move = "send" | "give-back" | "release" | "withdraw";

/** What may be done with a document as it stands: begin, send, give back, release, withdraw, copy. */
export function ReleaseBar({
  document,
  plan,
  openStates,
  person,
  historyBase,
  discard,
}: {
  /** What goes for review: an incident type with all that is its, or one document. */
  document: string;
  plan: RevisionHead;
  openStates: string[];
  person: Person;
  historyBase: string;
  discard: Discard;
}) {
  const { act } = useAct(guidanceChanged);
  const navigate = useNavigate();
  const [history, setHistory] = useState(false);
  const [day, setDay] = useState("");
  const [trying, setTrying] = useState(false);
  const [asked, setAsked] = useState<"withdraw" | "discard" | null>(null);
  const writes = mayWrite(person);
  const approves = person.role === "approver";
  const drafts = openStates.includes("Draft");
  const waits = openStates.includes("In review");
  const tried = plan.state === "On trial";
  const at = { params: { path: { document } } };
  const approved = plan.state === "In review" && plan.history.at(-1)?.effective_on;

  function move(which: Move, note: string) {
    const body = { note };
    switch (which) {
      case "send":
        return act(
          () => need(client.POST("/api/v1/documents/{document}/send", { ...at, body })),
          "Sent for review.",
        );
      case "give-back":
        return act(
          () => need(client.POST("/api/v1/documents/{document}/give-back", { ...at, body })),
          "Given back.",
        );
      case "withdraw":
        return act(
          () =>
            need(
              client.POST("/api/v1/documents/{document}/withdraw", {
                params: { path: { document: plan.document } },
                body,
              }),
            ),
          `${plan.document} ${plan.in_force} is withdrawn.`,
        );
      default:
        return act(
          () =>
            need(
              client.POST("/api/v1/documents/{document}/release", {
                ...at,
                body: { effective_on: day || null },
              }),
            ),
          day ? `Approved; it takes effect on ${dayYear(day)}.` : "Released.",
        );
    }
  }

  async function copy() {
    const made = await act(() => need(client.POST("/api/v1/documents/{document}/copy", at)));
    if (!made) return;
    void navigate(
      document === plan.document ? placeOf({ kind: plan.kind, document: made.id }) : `/author/${made.id}`,
    );
  }

  const begin = () =>
    act(() =>
      need(
        client.POST("/api/v1/documents/{document}/draft", { params: { path: { document: plan.document } } }),
      ),
    );

  return (
    <>
      {tried && <OnTrial document={plan.document} />}
      {writes && !drafts && !waits && !tried && (
        <Button onClick={begin}>Begin revision {plan.next_letter}</Button>
      )}
      {writes && drafts && (
        <WithNote
          label="Send for review"
          touches={document}
          ask="What changed, for the one who reads it"
          onGo={(n) => move("send", n)}
        />
      )}
      {waits && approves && (
        <>
          <WithNote
            label="Give back"
            quiet
            needed
            ask="What should change"
            onGo={(n) => move("give-back", n)}
          />
          {!approved && plan.kind === "plan" && plan.state === "In review" && plan.in_force && (
            <Button variant="default" onClick={() => setTrying(true)}>
              Try it first
            </Button>
          )}
          {!approved && (
            <WithNote label="Release" touches={document} onGo={() => move("release", "")}>
              <TextInput
                type="date"
                label="Takes effect on (at once, if empty)"
                value={day}
                onChange={(e) => setDay(e.currentTarget.value)}
              />
            </WithNote>
          )}
        </>
      )}
      {waits && (
        <span className="soft">
          {approved
            ? `Approved, takes effect on ${dayYear(approved)}.`
            : approves
              ? ""
              : "Waits for a second person."}
        </span>
      )}
      <Menu position="bottom-end" closeOnItemClick={false}>
        <Menu.Target>
          <Button variant="default" px={8} aria-label="More about this revision">
            <IconDots size={17} />
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item closeMenuOnClick onClick={() => setHistory(true)}>
            Revisions and who changed what
          </Menu.Item>
          {writes && (
            <Menu.Item closeMenuOnClick onClick={copy}>
              Copy it as a start for a new one
            </Menu.Item>
          )}
          <Menu.Item closeMenuOnClick onClick={() => window.print()}>
            Print it
          </Menu.Item>
          {approves && plan.in_force && (
            <Menu.Item closeMenuOnClick color="bad" onClick={() => setAsked("withdraw")}>
              Withdraw {plan.document} {plan.in_force}
            </Menu.Item>
          )}
          {writes && plan.state === "Draft" && (
            <Menu.Item closeMenuOnClick color="bad" onClick={() => setAsked("discard")}>
              Throw draft {plan.letter} away
            </Menu.Item>
          )}
        </Menu.Dropdown>
      </Menu>
      {asked === "withdraw" && (
        <AskFirst
          title={`Withdraw ${plan.document} ${plan.in_force}`}
          act="Withdraw it"
          reason="Why it goes out of force"
          onClose={() => setAsked(null)}
          onGo={(why) => {
            setAsked(null);
            void move("withdraw", why);
          }}
        >
          <p>Orders to come no longer get what it says; orders that have it keep it.</p>
        </AskFirst>
      )}
      {asked === "discard" && (
        <AskFirst
          title={`Throw draft ${plan.letter} away`}
          act="Throw it away"
          onClose={() => setAsked(null)}
          onGo={() => {
            setAsked(null);
            void discard.go();
          }}
        >
          <p>{discard.words}</p>
        </AskFirst>
      )}
      {trying && <TryFirst plan={plan} onClose={() => setTrying(false)} />}
      <HistoryDrawer base={historyBase} plan={plan} shown={history} onClose={() => setHistory(false)} />
    </>
  );
}

function WithNote({
  label,
  ask,
  quiet,
  needed,
  touches,
  onGo,
  children,
}: {
  label: string;
  ask?: string;
  quiet?: boolean;
  needed?: boolean;
  /** The document of which it is told first what this touches. */
  touches?: string;
  onGo: (note: string) => void;
  children?: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const [note, setNote] = useState("");
  // What it touches is there before it can be done: it is to be read, and it moves the button when it comes.
  const isLooking = useReleaseEffect(touches ?? "", open && touches !== undefined).isLoading;
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" width={340} trapFocus>
      <Popover.Target>
        <Button variant={quiet ? "default" : "filled"} onClick={() => setOpen(!open)}>
          {label}
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        {ask && (
          <Textarea
            label={ask}
            value={note}
            minRows={2}
            autosize
            onChange={(e) => setNote(e.currentTarget.value)}
          />
        )}
        {touches && <EffectList document={touches} />}
        {children}
        <Button
          mt="xs"
          disabled={isLooking || (needed && !note.trim())}
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
