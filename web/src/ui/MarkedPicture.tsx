import { useState } from "react";
import type { PictureMark } from "../api/types";
import "./marked-picture.css";

interface MarkedPictureProps {
  src: string;
  alt: string;
  marks: readonly PictureMark[];
  /** "slice" fills the room and cuts the picture's edges, "meet" shows all of it. */
  fit?: "slice" | "meet";
}

/** A picture with what was drawn on it, over the original. */
export function MarkedPicture({ src, alt, marks, fit = "meet" }: MarkedPictureProps) {
  const [size, setSize] = useState({ width: 4, height: 3 });
  const told = marks.map((mark) => (mark.shape === "words" ? `“${mark.text}”` : mark.shape)).join(", ");
  return (
    <span className="marked-picture" data-fit={fit}>
      <img
        src={src}
        alt={told ? `${alt}, marked: ${told}` : alt}
        onLoad={(e) =>
          setSize({ width: e.currentTarget.naturalWidth, height: e.currentTarget.naturalHeight })
        }
      />
      {marks.length > 0 && <Marks marks={marks} {...size} fit={fit} />}
    </span>
  );
}

/** The marks alone, in the coordinates of a picture of this size. */
export function Marks({
  marks,
  width,
  height,
  fit,
  side,
}: {
  marks: readonly PictureMark[];
  width: number;
  height: number;
  fit: "slice" | "meet";
  /** Whose marks they are, where two sides draw on one picture. */
  side?: "site" | "office";
}) {
  const thick = Math.max(width, height) / 160;
  return (
    <svg
      className="picture-marks"
      data-side={side}
      viewBox={`0 0 ${width} ${height}`}
      preserveAspectRatio={`xMidYMid ${fit}`}
      aria-hidden="true"
    >
      {["under", "over"].map((layer) => (
        <g key={layer} data-layer={layer} strokeWidth={layer === "under" ? thick * 2.2 : thick}>
          {marks.map((mark) => (
            <Shape key={JSON.stringify(mark)} mark={mark} width={width} height={height} thick={thick} />
          ))}
        </g>
      ))}
    </svg>
  );
}

function Shape({
  mark,
  width,
  height,
  thick,
}: {
  mark: PictureMark;
  width: number;
  height: number;
  thick: number;
}) {
  const [x0, y0, x1, y1] = [mark.x0 * width, mark.y0 * height, mark.x1 * width, mark.y1 * height];
  const [left, top] = [Math.min(x0, x1), Math.min(y0, y1)];
  const [wide, high] = [Math.abs(x1 - x0), Math.abs(y1 - y0)];
  switch (mark.shape) {
    case "box":
      return <rect x={left} y={top} width={wide} height={high} />;
    case "ring":
      return <ellipse cx={left + wide / 2} cy={top + high / 2} rx={wide / 2} ry={high / 2} />;
    case "arrow": {
      const angle = Math.atan2(y1 - y0, x1 - x0);
      const head = (turn: number) =>
        `${x1 - thick * 6 * Math.cos(angle + turn)},${y1 - thick * 6 * Math.sin(angle + turn)}`;
      return <polyline points={`${x0},${y0} ${x1},${y1} ${head(0.5)} ${x1},${y1} ${head(-0.5)}`} />;
    }
    default:
      return (
        <text x={x0} y={y0} fontSize={thick * 8}>
          {mark.text}
        </text>
      );
  }
}
