import { Button, Select } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useFacts } from "../api/queries";
import type { Condition, Question, Raise } from "../api/types";
import { SavedNumber, SavedText, SavedTextarea } from "../draft/saved-fields";
import type { QuestionPart } from "../draft/use-draft";
import { unitOf } from "../ui/questions";
import { useKeys } from "../ui/use-keys";
import { askableBefore, askQuestion } from "./askable";
import { ConditionEditor } from "./ConditionEditor";
import type { QuestionProps } from "./QuestionOfKind";

const OWNERS = ["technician", "planner", "engineer", "keeper"];
const SEVERITIES = ["Note", "Watch", "Act", "Stop"];

/** What can be said of a question of any kind: when it is asked, required, filled in, what it raises. */
export function QuestionRest({ plan, step, question, set }: QuestionProps) {
  const facts = useFacts().data ?? [];
  const asked = askableBefore(plan, step, question.id, facts);
  const answered = !["computed", "instruction"].includes(question.kind);
  return (
    <div className="question-rest">
      <SavedTextarea
        label="Detail, for the one who wants to know how"
        value={question.detail}
        onSave={(detail) => set({ detail })}
      />
      <fieldset>
        <legend>Asked when</legend>
        <ConditionEditor
          condition={question.condition as Condition | null}
          asked={asked}
          onChange={(condition) => set({ condition } as Partial<Question>)}
        />
      </fieldset>
      {answered && (
        <div className="details-row">
          <Select
            label="Required"
            w={120}
            allowDeselect={false}
            data={["always", "never", "when"]}
            value={question.required}
            onChange={(required) => set({ required: required as Question["required"] })}
          />
          <Select
            label="Filled in from"
            w={210}
            searchable
            clearable
            placeholder="nothing"
            data={[
              { value: "last", label: "the last visit" },
              ...facts.map((f) => ({ value: f.name, label: f.label })),
            ]}
            value={question.prefill}
            onChange={(prefill) => set({ prefill })}
          />
          <Select
            label="Written back to"
            w={190}
            searchable
            clearable
            placeholder="nothing"
            data={facts.filter((f) => f.writable).map((f) => ({ value: f.name, label: f.label }))}
            value={question.write_back}
            onChange={(write_back) => set({ write_back })}
          />
        </div>
      )}
      {unitOf(question) !== undefined && (
        <SavedText
          shown
          label="Name in formulas"
          width={140}
          mono
          value={question.name}
          onSave={(name) => set({ name })}
        />
      )}
      {question.required === "when" && (
        <fieldset>
          <legend>Required when</legend>
          <ConditionEditor
            condition={question.required_when as Condition | null}
            asked={asked}
            empty="Nothing says when yet. "
            onChange={(required_when) => set({ required_when } as Partial<Question>)}
          />
        </fieldset>
      )}
      {(question.kind === "reading" || question.kind === "computed") && (
        <div className="details-row">
          <Select
            label="Outside a limit, seen to by"
            w={190}
            allowDeselect={false}
            data={OWNERS}
            value={question.limits.owner}
            onChange={(owner) =>
              set((now) =>
                "limits" in now ? { limits: { ...now.limits, owner: owner as Raise["owner"] } } : {},
              )
            }
          />
          <SavedNumber
            label="within days"
            width={90}
            value={question.limits.due_days}
            onSave={(due_days) =>
              set((now) => ("limits" in now ? { limits: { ...now.limits, due_days } } : {}))
            }
          />
        </div>
      )}
      <Findings
        question={question}
        asked={[askQuestion(plan, question, "this question"), ...asked]}
        set={set}
      />
    </div>
  );
}

/** The findings that answers raise, each with when, how serious, whose and by when. */
function Findings({
  question,
  asked,
  set,
}: {
  question: Question;
  asked: ReturnType<typeof askableBefore>;
  set: (part: QuestionPart) => void;
}) {
  const { raises } = question;
  const first = asked[0]?.first;
  const put = (next: (now: Raise[]) => Raise[]) =>
    set((now) => ({ raises: next(now.raises) }) as Partial<Question>);
  const change = (i: number, part: Partial<Raise>) =>
    put((now) => now.map((r, j) => (j === i ? { ...r, ...part } : r)));
  const { keys, drop } = useKeys(raises.length);
  if (question.kind === "instruction") return null;
  return (
    <fieldset>
      <legend>Raises a finding</legend>
      {raises.map((raised, i) => (
        <div key={keys[i]} className="finding-row">
          <ConditionEditor
            condition={raised.when as Condition}
            asked={asked}
            onChange={(when) => when && change(i, { when } as Partial<Raise>)}
          />
          <div className="details-row">
            <Select
              label="Severity"
              w={100}
              allowDeselect={false}
              data={SEVERITIES}
              value={raised.severity}
              onChange={(severity) => change(i, { severity: severity as Raise["severity"] })}
            />
            <SavedText
              shown
              label="What it says"
              width={240}
              value={raised.says}
              onSave={(says) => change(i, { says })}
            />
            <Select
              label="Seen to by"
              w={120}
              allowDeselect={false}
              data={OWNERS}
              value={raised.owner}
              onChange={(owner) => change(i, { owner: owner as Raise["owner"] })}
            />
            <SavedNumber
              label="within days"
              width={90}
              value={raised.due_days}
              onSave={(due_days) => change(i, { due_days })}
            />
            <Button
              variant="subtle"
              color="slate"
              onClick={() => {
                drop(i);
                put((now) => now.filter((_, j) => j !== i));
              }}
            >
              Remove finding
            </Button>
          </div>
        </div>
      ))}
      <Button
        variant="subtle"
        color="slate"
        leftSection={<IconPlus size={14} />}
        onClick={() =>
          put((now) => [
            ...now,
            {
              when: first as Raise["when"],
              severity: "Act",
              says: "",
              owner: "planner",
              due_days: null,
            },
          ])
        }
      >
        Add a finding
      </Button>
    </fieldset>
  );
}
