import { Button, Menu, Select } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useState } from "react";
import type { Question, QuestionKind } from "../api/types";
import { SavedText } from "../draft/saved-fields";
import { type QuestionPart, reworkQuestion } from "../draft/use-draft";
import { QUESTION_KINDS } from "../ui/questions";
import { QuestionOfKind, type QuestionProps } from "./QuestionOfKind";
import { QuestionRest } from "./QuestionRest";

/** One question with all that can be said of it: first what every kind needs, the rest on demand. */
export function QuestionEditor(props: Omit<QuestionProps, "set">) {
  const { question, draft, edit } = props;
  const [more, setMore] = useState(false);
  const set = (part: QuestionPart) => draft.change(reworkQuestion(question.id, part));
  const told = notable(question);
  return (
    <div className="question-row">
      <div className="clause">
        <Select
          aria-label="Kind of question"
          w={126}
          allowDeselect={false}
          data={QUESTION_KINDS.map((k) => ({ value: k.kind, label: k.name }))}
          value={question.kind}
          onChange={(kind) =>
            kind && edit({ kind: "change kind", question: question.id, question_kind: kind as QuestionKind })
          }
        />
        <SavedText
          label={question.kind === "photo" ? "Photo of" : "Question"}
          placeholder={question.kind === "photo" ? "what" : "what is asked"}
          width={280}
          value={question.label}
          onSave={(label) => set({ label })}
        />
        <Button variant="subtle" color="slate" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "Less" : told ? `More: ${told}` : "More"}
        </Button>
        <Button
          variant="subtle"
          color="slate"
          aria-label={`Remove “${question.label}”`}
          onClick={() => edit({ kind: "remove question", question: question.id })}
        >
          Remove
        </Button>
      </div>
      <QuestionOfKind {...props} set={set} />
      {more && <QuestionRest {...props} set={set} />}
    </div>
  );
}

/** What is said of a question beyond its kind, in a few words, so that nothing hides behind More. */
function notable(question: Question): string {
  return [
    question.condition && "condition",
    question.required !== "always" && question.kind !== "instruction" && "not always required",
    question.prefill && "filled in",
    question.write_back && "written back",
    question.raises.length > 0 && "findings",
  ]
    .filter(Boolean)
    .join(", ");
}

/** The kinds to add, as a menu; a form's builder has them as a palette too. */
export function AddQuestionMenu({
  label,
  onAdd,
  onPhotoSet,
}: {
  label: string;
  onAdd: (kind: QuestionKind) => void;
  onPhotoSet?: () => void;
}) {
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <Button variant="default" leftSection={<IconPlus size={15} />}>
          {label}
        </Button>
      </Menu.Target>
      <Menu.Dropdown mah={360} style={{ overflowY: "auto" }}>
        {QUESTION_KINDS.map(({ kind, name, icon: Icon }) => (
          <Menu.Item key={kind} leftSection={<Icon size={15} />} onClick={() => onAdd(kind)}>
            {name}
          </Menu.Item>
        ))}
        {onPhotoSet && <Menu.Item onClick={onPhotoSet}>Photos: before, nameplate, finished</Menu.Item>}
      </Menu.Dropdown>
    </Menu>
  );
}
