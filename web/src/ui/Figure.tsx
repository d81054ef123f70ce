import type { ReactNode } from "react";
import type { Share } from "../api/types";
import { count, percent } from "./format";
import "./figure.css";

/** A figure with what it is of, its range and its count beside it. */
export function Figure({
  label,
  value,
  beside,
  title,
}: {
  label: string;
  value: ReactNode;
  beside?: ReactNode;
  title?: string;
}) {
  return (
    <div className="figure" title={title}>
      <div className="figure-label">{label}</div>
      <div>
        <span className="figure-value">{value}</span> <span className="figure-beside">{beside}</span>
      </div>
    </div>
  );
}

/** A share as a figure. */
export function ShareFigure({
  label,
  share,
  more,
  title,
  of = "job",
}: {
  label: string;
  share: Share;
  /** What is counted. */
  of?: string;
  more?: string;
  title?: string;
}) {
  const known = share.share !== null;
  return (
    <Figure
      label={label}
      title={title}
      value={known ? `${percent(share.share ?? 0)} %` : "–"}
      beside={
        known
          ? `${percent(share.low)}–${percent(share.high)}, ${count(share.n_total, of)}${more ? `, ${more}` : ""}`
          : `no ${of}s yet${more ? `, ${more}` : ""}`
      }
    />
  );
}
