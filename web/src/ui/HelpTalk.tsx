import { useState } from "react";
import type { HelpView, PictureMark } from "../api/types";
import { dayTime } from "./format";
import { Marks } from "./MarkedPicture";
import "./help-talk.css";

/** The frozen picture of a help thread with the marks of both sides on it, those of the office dashed. */
export function HelpFrame({ src, view }: { src: string; view: Pick<HelpView, "messages" | "step"> }) {
  const [size, setSize] = useState({ width: 4, height: 3 });
  return (
    <span className="marked-picture help-frame">
      <img
        src={src}
        alt={`The question from site, ${view.step}`}
        onLoad={(e) =>
          setSize({ width: e.currentTarget.naturalWidth, height: e.currentTarget.naturalHeight })
        }
      />
      {marksBySide(view.messages).map((held) => (
        <Marks key={held.side} marks={held.marks} {...size} fit="meet" side={held.side} />
      ))}
    </span>
  );
}

/** The marks on the picture of a thread, those of each side together. */
export function marksBySide(messages: HelpView["messages"]) {
  return (["site", "office"] as const)
    .map((side) => ({
      side,
      marks: messages.filter((m) => m.side === side).flatMap((m) => m.marks as PictureMark[]),
    }))
    .filter((held) => held.marks.length > 0);
}

/** What was said on a help thread, oldest first. */
export function HelpMessages({ messages }: { messages: HelpView["messages"] }) {
  return (
    <ol className="help-messages" aria-label="What was said">
      {messages.map((message) => (
        <li key={`${message.side} ${message.at} ${message.text}`} data-side={message.side}>
          <b>{message.person || (message.side === "site" ? "On site" : "Office")}</b>{" "}
          <span className="soft">
            {message.side === "site" ? "on site" : "office"}, {dayTime(message.at)}
          </span>
          <div>
            {message.text}
            {message.marks.length > 0 && (
              <span className="soft">
                {message.text && " "}
                {message.marks.length === 1 ? "One mark" : `${message.marks.length} marks`} on the picture.
              </span>
            )}
          </div>
        </li>
      ))}
    </ol>
  );
}
