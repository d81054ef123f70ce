import { type PointerEvent, useRef, useState } from "react";
import type { PictureMark } from "../api/types";
import { Marks } from "./MarkedPicture";
import "./pocket-step.css";
import "./mark-picture.css";

export interface MarkPictureProps {
  src: string;
  label: string;
  marks: readonly PictureMark[];
  /** What is drawn on it already and stays, by whose it is. */
  under?: { side: "site" | "office"; marks: readonly PictureMark[] }[];
  /** Whose marks are drawn, where two sides draw on one picture. */
  side?: "site" | "office";
  /** The word on the button that keeps them. */
  keep?: string;
  onKeep: (marks: PictureMark[]) => void;
  onClose: () => void;
}

type Shape = PictureMark["shape"];
const SHAPES: { shape: Shape; label: string }[] = [
  { shape: "arrow", label: "Arrow" },
  { shape: "ring", label: "Ring" },
  { shape: "box", label: "Box" },
  { shape: "words", label: "Words" },
];
/** A drag shorter than this part of the picture is a slip of the thumb. */
const SLIP = 0.02;

/** A picture over the whole screen, to draw on with a thumb. */
export function MarkPicture({
  src,
  label,
  marks,
  under = [],
  side,
  keep = "Keep marks",
  onKeep,
  onClose,
}: MarkPictureProps) {
  const [drawn, setDrawn] = useState<PictureMark[]>([...marks]);
  const [shape, setShape] = useState<Shape>("arrow");
  const [going, setGoing] = useState<PictureMark | null>(null);
  const [words, setWords] = useState("");
  const [size, setSize] = useState({ width: 4, height: 3 });
  const picture = useRef<HTMLDivElement>(null);

  function at(event: PointerEvent) {
    const room = picture.current?.getBoundingClientRect();
    if (!room) return { x: 0, y: 0 };
    const inside = (part: number) => Math.round(Math.min(1, Math.max(0, part)) * 1000) / 1000;
    return {
      x: inside((event.clientX - room.left) / room.width),
      y: inside((event.clientY - room.top) / room.height),
    };
  }

  function begin(event: PointerEvent<HTMLDivElement>) {
    event.currentTarget.setPointerCapture(event.pointerId);
    const { x, y } = at(event);
    const mark = { shape, x0: x, y0: y, x1: x, y1: y, text: shape === "words" ? words.trim() : "" };
    if (shape !== "words") setGoing(mark);
    else if (mark.text) {
      setDrawn([...drawn, mark]);
      setWords("");
    }
  }

  function end() {
    if (going && Math.hypot(going.x1 - going.x0, going.y1 - going.y0) > SLIP) setDrawn([...drawn, going]);
    setGoing(null);
  }

  return (
    <div className="mark-picture" role="dialog" aria-label={`Draw on ${label}`}>
      <div className="mark-stage">
        <div
          ref={picture}
          className="mark-room"
          data-testid="mark-room"
          onPointerDown={begin}
          onPointerMove={(event) => {
            if (!going) return;
            const { x, y } = at(event);
            setGoing({ ...going, x1: x, y1: y });
          }}
          onPointerUp={end}
          onPointerCancel={() => setGoing(null)}
        >
          <img
            src={src}
            alt={label}
            draggable={false}
            onLoad={(e) =>
              setSize({ width: e.currentTarget.naturalWidth, height: e.currentTarget.naturalHeight })
            }
          />
          {under.map((held) => (
            <Marks key={held.side} marks={held.marks} {...size} fit="meet" side={held.side} />
          ))}
          <Marks side={side} marks={going ? [...drawn, going] : drawn} {...size} fit="meet" />
        </div>
      </div>
      {shape === "words" && (
        <input
          className="ptext"
          aria-label="Words"
          placeholder="Type words, then press where they go"
          maxLength={120}
          value={words}
          onChange={(e) => setWords(e.currentTarget.value)}
        />
      )}
      <div className="mark-tools">
        {SHAPES.map((one) => (
          <button
            key={one.shape}
            type="button"
            className="pchoice"
            aria-pressed={shape === one.shape}
            onClick={() => setShape(one.shape)}
          >
            {one.label}
          </button>
        ))}
      </div>
      <div className="mark-tools">
        <button type="button" className="pocket-other" onClick={onClose}>
          Leave it
        </button>
        <button
          type="button"
          className="pocket-other"
          disabled={drawn.length === 0}
          onClick={() => setDrawn(drawn.slice(0, -1))}
        >
          Take back
        </button>
        <button type="button" className="pocket-main" onClick={() => onKeep(drawn)}>
          {keep}
        </button>
      </div>
    </div>
  );
}
