import { Drawer, Textarea } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import { v4 as newId } from "uuid";
import { client, need } from "../api/client";
import type { FieldEvent, HelpView, PictureMark } from "../api/types";
import { HelpFrame, HelpMessages, marksBySide } from "../ui/HelpTalk";
import { Look } from "../ui/Look";
import { MarkPicture } from "../ui/MarkPicture";
import type { CarriedOrder } from "./carried-order";
import { readyPhoto, standInPhoto } from "./devices";
import { now } from "./outbox";
import "./pocket.css";

interface HelpProps {
  page: CarriedOrder;
  line: { id: string; text: string } | null;
  standIns: boolean;
  record: (...events: FieldEvent[]) => Promise<boolean>;
  keepPicture: (blob: Blob) => Promise<string | null>;
  addressOf: (picture: string) => string;
  onClose: () => void;
}

/** How often what the office said is asked for while a thread is open, in milliseconds. */
const LOOK_MS = 1_000;

/** Ask the office: freeze a picture, mark it, ask; then talk over the same picture until it is ended. */
export function Help(props: HelpProps) {
  return (
    <Look>
      <HelpDrawer {...props} />
    </Look>
  );
}

function HelpDrawer({ page, line, standIns, record, keepPicture, addressOf, onClose }: HelpProps) {
  const open = Object.values(page.job.help).find((thread) => thread.ended_at === null);
  const told = useOffice(page.line.id, open?.id ?? null);
  const [text, setText] = useState("");
  const [picture, setPicture] = useState<string | null>(null);
  const [marks, setMarks] = useState<PictureMark[]>([]);
  const [drawing, setDrawing] = useState(false);
  const [trouble, setTrouble] = useState("");
  const camera = useRef<HTMLInputElement>(null);

  async function freeze(taking: Promise<Blob>) {
    setTrouble("");
    try {
      const kept = await keepPicture(await taking);
      if (kept) {
        setPicture(kept);
        setMarks([]);
        setDrawing(true);
      } else setTrouble("This picture is not recorded: there is no room left for it on this device.");
    } catch (error) {
      setTrouble(`The picture is not kept. ${(error as Error).message}`);
    }
  }

  async function ask() {
    const asked = await record({
      kind: "help asked",
      at: now(),
      thread: newId(),
      text: text.trim(),
      line: line?.id ?? null,
      picture,
      marks,
    });
    if (!asked) return;
    setText("");
    setMarks([]);
  }

  async function add(more: PictureMark[]) {
    if (!open) return;
    const added = await record({
      kind: "help added",
      at: now(),
      thread: open.id,
      text: text.trim(),
      marks: more,
    });
    if (added) setText("");
  }

  async function end(kept: boolean) {
    if (open && (await record({ kind: "help ended", at: now(), thread: open.id, kept }))) onClose();
  }

  const view: Pick<HelpView, "messages" | "step"> = {
    step: line?.text ?? page.line.asset.name,
    messages: open ? withOffice(open.said, told) : [],
  };
  const frame = open ? open.picture : picture;
  if (drawing && frame)
    return (
      <MarkPicture
        src={addressOf(frame)}
        label="the picture with your question"
        marks={open ? [] : marks}
        under={open ? marksBySide(view.messages) : []}
        side="site"
        keep={open ? "Send marks" : "Keep marks"}
        onClose={() => setDrawing(false)}
        onKeep={(drawn) => {
          setDrawing(false);
          if (open) void add(drawn);
          else setMarks(drawn);
        }}
      />
    );
  return (
    <Drawer
      opened
      onClose={onClose}
      position="bottom"
      size="92%"
      title={open ? "Your question" : "Ask for help"}
      classNames={{ content: "pocket-drawer" }}
    >
      {trouble && (
        <p role="alert" className="pconsequence out">
          {trouble}
        </p>
      )}
      <input
        ref={camera}
        type="file"
        accept="image/jpeg,image/png,image/webp"
        capture="environment"
        hidden
        aria-label="Photo with the question"
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          e.currentTarget.value = "";
          if (file) void freeze(readyPhoto(file));
        }}
      />
      {!open && <p className="pstep-place">About “{line?.text ?? page.line.asset.name}”</p>}
      {frame && (
        <HelpFrame
          src={addressOf(frame)}
          view={
            open ? view : { ...view, messages: [{ side: "site", person: "", at: now(), text: "", marks }] }
          }
        />
      )}
      {open && <HelpMessages messages={view.messages} />}
      {open && !told?.some((m) => m.side === "office") && (
        <p role="status" className="pconsequence">
          Nobody has answered yet. You can go on with your work; the answer waits here.
        </p>
      )}
      <Textarea
        label={open ? "Say more" : "What do you want to know?"}
        size="md"
        autosize
        minRows={2}
        maxLength={2000}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <div className="pocket-two under">
        {frame ? (
          <button type="button" className="pocket-other" onClick={() => setDrawing(true)}>
            Draw on it
          </button>
        ) : (
          <button
            type="button"
            className="pocket-other"
            onClick={() =>
              standIns
                ? void freeze(standInPhoto(`${line?.text ?? "Question"}, ${page.line.asset.name}`))
                : camera.current?.click()
            }
          >
            Take photo
          </button>
        )}
        {open ? (
          <button type="button" className="pocket-main" disabled={!text.trim()} onClick={() => add([])}>
            Send
          </button>
        ) : (
          <button
            type="button"
            className="pocket-main"
            disabled={!text.trim() && picture === null}
            onClick={ask}
          >
            Ask
          </button>
        )}
      </div>
      {open && (
        <section className="apart">
          <h2>Is it settled?</h2>
          <p>Kept, it stays with this step for those who write its guidance.</p>
          <div className="pocket-two">
            <button type="button" className="pocket-other" onClick={() => end(false)}>
              End, do not keep
            </button>
            <button type="button" className="pocket-other" onClick={() => end(true)}>
              End and keep
            </button>
          </div>
        </section>
      )}
    </Drawer>
  );
}

type Messages = HelpView["messages"];

/** What the office said on a thread, asked for again and again while it is open; what was heard last stays. */
function useOffice(order: string, thread: string | null): Messages | null {
  const [told, setTold] = useState<Messages | null>(null);
  useEffect(() => {
    if (!thread) return;
    let here = true;
    const look = async () => {
      try {
        const all = await need(
          client.GET("/api/v1/pocket/orders/{order_id}/help-threads", {
            params: { path: { order_id: order } },
          }),
        );
        const found = all.find((one) => one.thread === thread);
        if (here && found) setTold(found.messages);
      } catch {
        // Without a network what was heard last stays on the screen.
      }
    };
    void look();
    const later = window.setInterval(() => void look(), LOOK_MS);
    return () => {
      here = false;
      window.clearInterval(later);
    };
  }, [order, thread]);
  return told;
}

/** What was said here, sent or not, with what the office said, in time. */
function withOffice(said: CarriedOrder["job"]["help"][string]["said"], told: Messages | null): Messages {
  const own: Messages = said.map((words) => ({
    side: "site",
    person: "You",
    at: words.at,
    text: words.text,
    marks: words.marks,
  }));
  return [...own, ...(told ?? []).filter((m) => m.side === "office")].sort((a, b) =>
    a.at.localeCompare(b.at),
  );
}
