import type { Step } from "../api/types";

export type Phase = Step["phase"];

/** The colour of a phase as a word, which needs more contrast than a line. */
export const phaseWord = (phase: Phase) => (phase === "Diagnose" ? "var(--slate-deep)" : PHASE_COLOUR[phase]);

/** One colour per phase; the word always stands beside it. */
export const PHASE_COLOUR: Record<Phase, string> = {
  Arrive: "var(--reed)",
  "Make safe": "var(--bad)",
  Diagnose: "var(--slate)",
  "Put right": "var(--tawny)",
  Prove: "var(--prove)",
  Leave: "var(--soft)",
};
