import type { OrderOfWork } from "../api/types";
import { minutes, percent } from "../ui/format";
import { SavePlot } from "../ui/SavePlot";
import { RARE } from "./OrderOfWork";
import "./order-tree.css";

type Line = OrderOfWork["lines"][number];

const COLUMN = 198;
const ROW = 58;
const BOX = { width: 142, height: 44 };

interface Placed {
  line: Line;
  x: number;
  y: number;
  from: Placed | null;
}

/** The order of work as a small tree: what each answer and each remedy that did not help leads to. */
export function OrderTree({ work }: { work: OrderOfWork }) {
  const shown = work.lines.filter((line) => line.reached >= RARE);
  if (shown.length < 2) return null;
  const placed = place(shown);
  const width = Math.max(...placed.map((one) => one.x)) + BOX.width + 12;
  const height = Math.max(...placed.map((one) => one.y)) + BOX.height / 2 + 8;
  const words = `Order of work: ${shown.map((line) => `${line.when ? `${line.when}, ` : ""}${line.label}`).join("; ")}.`;
  return (
    <figure className="order-tree">
      <figcaption>
        <h2>The order of work, drawn</h2>
        <p className="soft">
          From left to right; a line is as thick as the share of jobs that take it. Turns that fewer than one
          job in thirty comes to are left out.
        </p>
      </figcaption>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what runs off the side is reached by keyboard too */}
      <section className="order-tree-room" aria-label="Drawing of the order of work" tabIndex={0}>
        <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} role="img" aria-label={words}>
          {placed.map(
            (one) =>
              one.from && (
                <g key={`to ${one.line.path}`}>
                  <path
                    d={way(one.from, one)}
                    className="order-tree-way"
                    strokeWidth={1 + 6 * one.line.reached}
                  />
                  <text
                    x={one.x - 6}
                    y={one.y + (one.y > one.from.y ? 15 : -7)}
                    textAnchor="end"
                    className="order-tree-when"
                  >
                    {WHEN[one.line.when] ?? one.line.when}
                  </text>
                </g>
              ),
          )}
          {placed.map(({ line, x, y }) => (
            <g key={line.path}>
              <title>{`${line.label}, ${minutes(line.minutes)} from here, ${percent(line.reached)} % of jobs`}</title>
              <rect
                x={x}
                y={y - BOX.height / 2}
                width={BOX.width}
                height={BOX.height}
                rx={line.act === "check" ? 22 : 3}
                className="order-tree-box"
                data-act={line.act}
              />
              <text className="order-tree-label" textAnchor="middle">
                {inLines(line.label).map((part, i, all) => (
                  <tspan key={part} x={x + BOX.width / 2} y={y + 4 + (i - (all.length - 1) / 2) * 14}>
                    {part}
                  </tspan>
                ))}
              </text>
            </g>
          ))}
        </svg>
      </section>
      <SavePlot name="order of work" />
    </figure>
  );
}

const WHEN: Record<string, string> = {
  "if so": "so",
  "if not": "not so",
  "if that did not help": "no help",
};

/** A label in lines that fit a box, three at most. */
function inLines(label: string): string[] {
  const lines: string[] = [];
  for (const word of label.split(" ")) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + word.length < 22) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  return lines.length > 3 ? [...lines.slice(0, 2), `${lines[2]}…`] : lines;
}

/** Each line at its place: the ends of the tree one under the other, what leads to them at their middle. */
function place(lines: Line[]): Placed[] {
  const placed: Placed[] = [];
  let rows = 0;
  const put = (line: Line, depth: number, from: Placed | null): Placed => {
    const one: Placed = { line, x: 6 + depth * COLUMN, y: 0, from };
    placed.push(one);
    const next = lines.filter(
      (other) => other.path !== line.path && other.path.slice(0, other.path.lastIndexOf("/")) === line.path,
    );
    const ys = next.map((other) => put(other, depth + 1, one).y);
    if (ys.length === 0) {
      one.y = 8 + BOX.height / 2 + rows * ROW;
      rows += 1;
    } else one.y = (Math.min(...ys) + Math.max(...ys)) / 2;
    return one;
  };
  const [root] = lines;
  if (root) put(root, 0, null);
  return placed;
}

function way(from: Placed, to: Placed): string {
  const [x1, x2] = [from.x + BOX.width, to.x];
  const middle = (x1 + x2) / 2;
  return `M${x1},${from.y}C${middle},${from.y} ${middle},${to.y} ${x2},${to.y}`;
}
