import { Button, Select } from "@mantine/core";
import { useState } from "react";
import { v4 as newId } from "uuid";
import { useChoices, useFacts, useJobFacts } from "../api/queries";
import type { Condition, FinishRule, Plan, PlanView } from "../api/types";
import { SavedText } from "../draft/saved-fields";
import { type Draft, rework } from "../draft/use-draft";
import { askableAtTheEnd } from "./askable";
import { ConditionEditor } from "./ConditionEditor";

/** What must be there before a technician may finish, each rule in the engineer's own words. */
export function FinishRules({ plan, draft }: { plan: PlanView; draft: Draft }) {
  const weights = useChoices().data?.finish_weights ?? [];
  const asked = askableAtTheEnd(plan, useJobFacts().data ?? [], useFacts().data ?? []);
  const rules = plan.content.finish;
  // The menus of one rule at a time: they offer every question of the plan.
  const [open, setOpen] = useState<string | null>(null);
  const put = (make: (now: FinishRule[]) => FinishRule[]) =>
    draft.change(rework<Plan, "finish">("finish", make));
  const putOne = (id: string, part: Partial<FinishRule>) =>
    put((now) => now.map((rule) => (rule.id === id ? { ...rule, ...part } : rule)));
  return (
    <fieldset id="finish-rules">
      <legend>Before the job is finished</legend>
      {rules.length === 0 && (
        <p className="soft">
          Nothing besides the steps. A rule can ask for a note, a photo or an answer, and says in your words
          what is still open.
        </p>
      )}
      {rules.map((rule, i) => (
        <div key={rule.id} className="finish-rule" id={`finish-${i}`}>
          <div className="clause">
            <SavedText
              label={`What rule ${i + 1} tells the technician`}
              placeholder="Say what the technician has to see to"
              width={330}
              value={rule.says}
              onSave={(says) => putOne(rule.id, { says })}
            />
            <Select
              aria-label={`How strictly rule ${i + 1} holds`}
              w={100}
              allowDeselect={false}
              data={weights}
              value={rule.weight}
              onChange={(weight) => putOne(rule.id, { weight: weight as FinishRule["weight"] })}
            />
            <Button
              variant="subtle"
              aria-expanded={open === rule.id}
              onClick={() => setOpen(open === rule.id ? null : rule.id)}
            >
              {open === rule.id ? "Close" : "What it needs"}
            </Button>
            <Button
              variant="subtle"
              color="slate"
              onClick={() => put((now) => now.filter((one) => one.id !== rule.id))}
            >
              Take it off
            </Button>
          </div>
          {open === rule.id && (
            <>
              <ConditionEditor
                condition={rule.needs as Condition | null}
                asked={asked}
                empty="It does not say what it needs yet. "
                lead="needs that"
                label={`What rule ${i + 1} needs`}
                placeholder="A note, a photo, an answer…"
                onChange={(needs) => putOne(rule.id, { needs } as Partial<FinishRule>)}
              />
              <ConditionEditor
                condition={rule.when as Condition | null}
                asked={asked}
                empty="Asked for in every job. "
                lead="asked for when"
                label={`When rule ${i + 1} is asked for`}
                placeholder="Or only when…"
                onChange={(when) => putOne(rule.id, { when } as Partial<FinishRule>)}
              />
            </>
          )}
        </div>
      ))}
      <Button
        variant="default"
        onClick={() => {
          const id = newId().slice(0, 8);
          setOpen(id);
          void put((now) => [...now, { id, says: "", needs: null, when: null, weight: "must", under: null }]);
        }}
      >
        Add a rule
      </Button>
    </fieldset>
  );
}
