/** Ways to write figures and times, one for each. Nothing here decides anything. */

import type { Share } from "../api/types";

export function minutes(value: number | null | undefined): string {
  if (value === null || value === undefined) return "–";
  const whole = Math.round(value);
  if (whole < 60) return `${whole} min`;
  return whole % 60
    ? `${Math.floor(whole / 60)} h ${String(whole % 60).padStart(2, "0")}`
    : `${whole / 60} h`;
}

const numberFormat = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 1 });

/** `1,240`, `−0.5`: with one decimal at most. */
export function number(value: number): string {
  // Adding nothing makes a zero of what would be written as −0.
  return numberFormat.format(Math.round(value * 10) / 10 + 0).replace("-", "−");
}

export function percent(value: number): string {
  return String(Math.round(value * 100));
}

/** `71 % (62–79), 84 jobs`. */
export function shareText(share: Share): string {
  if (share.share === null) return "no jobs yet";
  return `${percent(share.share)} % (${percent(share.low)}–${percent(share.high)}), ${count(share.n_total, "job")}`;
}

const dayFormat = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });
const timeFormat = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const dayYearFormat = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });

/** A day; with its year where that is not this one. */
export function day(instant: string): string {
  const at = new Date(instant);
  return (at.getFullYear() === new Date().getFullYear() ? dayFormat : dayYearFormat).format(at);
}
/** A day of the calendar, written as 2026-03-07, which is the same one wherever it is read. */
export const calendarDay = (date: string) => day(`${date}T12:00`);
export const dayYear = (instant: string) => dayYearFormat.format(new Date(instant));
export const time = (instant: string) => timeFormat.format(new Date(instant));
export const dayTime = (instant: string) => `${day(instant)}, ${time(instant)}`;

/** The time alone where it is on the same day as one told before it. */
export const timeAfter = (instant: string, before: string) =>
  new Date(instant).toDateString() === new Date(before).toDateString() ? time(instant) : dayTime(instant);

export function initials(name: string): string {
  return name
    .split(/\s+/)
    .map((word) => word[0] ?? "")
    .slice(0, 2)
    .join("")
    .toUpperCase();
}

export function count(n: number, one: string, many = `${one}s`): string {
  return `${number(n)} ${n === 1 ? one : many}`;
}

/** The jobs that a share leaves out, in words: too young, or at times that cannot be. */
export function leftOut(evidence: { n_too_young: number; n_doubtful: number }): string {
  return [
    evidence.n_too_young ? `${evidence.n_too_young} too young` : "",
    evidence.n_doubtful ? `${evidence.n_doubtful} at doubtful times` : "",
  ]
    .filter(Boolean)
    .join(", ");
}
