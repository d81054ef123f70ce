import {
  IconAbacus,
  IconCalendar,
  IconCamera,
  IconCheckbox,
  IconCircleDot,
  IconGauge,
  IconInfoSquare,
  IconListCheck,
  IconMathFunction,
  IconScan,
  IconSignature,
  IconSquareCheck,
  IconTextSize,
} from "@tabler/icons-react";
import type { Question, QuestionKind } from "../api/types";

/** The kinds of question in the order the palette offers them: what they are called, with their mark. */
export const QUESTION_KINDS: { kind: QuestionKind; name: string; icon: typeof IconGauge }[] = [
  { kind: "tick", name: "Tick", icon: IconCheckbox },
  { kind: "reading", name: "Reading", icon: IconGauge },
  { kind: "yes_no", name: "Yes or no", icon: IconSquareCheck },
  { kind: "one_of", name: "One of", icon: IconCircleDot },
  { kind: "any_of", name: "Any of", icon: IconListCheck },
  { kind: "text", name: "Text", icon: IconTextSize },
  { kind: "date", name: "Day", icon: IconCalendar },
  { kind: "photo", name: "Photo", icon: IconCamera },
  { kind: "signature", name: "Signature", icon: IconSignature },
  { kind: "scan", name: "Scan", icon: IconScan },
  { kind: "meter", name: "Meter", icon: IconAbacus },
  { kind: "computed", name: "Computed", icon: IconMathFunction },
  { kind: "instruction", name: "Instruction", icon: IconInfoSquare },
];

export const kindName = (kind: Question["kind"]) => QUESTION_KINDS.find((k) => k.kind === kind)?.name ?? kind;

/** The unit of a question that is answered with a number. */
export const unitOf = (question: Question | undefined): string | undefined =>
  question && (question.kind === "reading" || question.kind === "computed" || question.kind === "meter")
    ? question.unit
    : undefined;
