import { Button, Select } from "@mantine/core";
import { Link } from "react-router";
import { useChoices, useFacts, useSharedDocuments } from "../api/queries";
import type { Condition, Plan, PlanView } from "../api/types";
import { SavedLines } from "../draft/saved-fields";
import { type Draft, rework, setPlan } from "../draft/use-draft";
import { Links } from "../ui/PocketStep";
import { askFact } from "./askable";
import { ConditionEditor } from "./ConditionEditor";
import { FinishRules } from "./FinishRules";
import { LinksField } from "./LinksField";

/** What belongs to the whole plan: forms that go with it, ready phrases for notes, documents. */
export function PlanExtras({ plan, draft, editable }: { plan: PlanView; draft: Draft; editable: boolean }) {
  const facts = useFacts().data ?? [];
  const phases = useChoices().data?.phases ?? [];
  const shared = (useSharedDocuments().data ?? []).filter((row) => row.link.kind === "form");
  const { forms, phrases, links, finish } = plan.content;
  if (!editable && forms.length + phrases.length + links.length + finish.length === 0) return null;
  const title = (document: string) =>
    shared.find((row) => row.link.document === document)?.link.title ?? document;
  if (!editable)
    return (
      <div className="extras soft">
        {forms.length > 0 && <p>Forms that go with it: {forms.map((f) => title(f.form)).join(", ")}.</p>}
        {phrases.length > 0 && <p>Ready phrases: {phrases.map((p) => `“${p}”`).join(" ")}</p>}
        {finish.length > 0 && (
          <p>
            Before the job is finished:{" "}
            {finish.map((rule) => `${rule.says.replace(/\.$/, "")} (${rule.weight})`).join("; ")}.
          </p>
        )}
        <Links links={links} />
      </div>
    );
  type Uses = Plan["forms"];
  const put = (make: (now: Uses) => Uses) => draft.change(rework<Plan, "forms">("forms", make));
  const putOne = (form: string, part: Partial<Uses[number]>) =>
    put((now) => now.map((use) => (use.form === form ? { ...use, ...part } : use)));
  return (
    <fieldset className="details extras plain-group">
      <legend className="skip">What belongs to the whole plan</legend>
      {plan.kind === "plan" && (
        <fieldset>
          <legend>Forms that go with the plan</legend>
          {forms.map((use) => (
            <div key={use.form} className="clause">
              <Link to={`/author/documents/${use.form}`}>{title(use.form)}</Link>
              <Select
                aria-label={`Phase of ${title(use.form)}`}
                w={120}
                allowDeselect={false}
                data={phases}
                value={use.phase}
                onChange={(phase) => putOne(use.form, { phase: phase as typeof use.phase })}
              />
              <Button
                variant="subtle"
                color="slate"
                onClick={() => put((now) => now.filter((f) => f.form !== use.form))}
              >
                Take it off
              </Button>
              <ConditionEditor
                condition={use.condition as Condition | null}
                asked={facts.map(askFact)}
                empty="With every order. "
                label={`When ${title(use.form)} comes`}
                placeholder="Or only when…"
                onChange={(condition) => putOne(use.form, { condition } as Partial<typeof use>)}
              />
            </div>
          ))}
          <Select
            aria-label="Add a form to the plan"
            placeholder={shared.length ? "Add a form" : "No form is written yet"}
            w={290}
            searchable
            data={shared
              .filter((row) => !forms.some((f) => f.form === row.link.document))
              .map(({ link }) => ({ value: link.document, label: `${link.title}, ${link.document}` }))}
            value={null}
            onChange={(form) =>
              form && put((now) => [...now, { form, phase: "Prove" as const, condition: null }])
            }
          />
        </fieldset>
      )}
      {plan.kind !== "standard step" && <FinishRules plan={plan} draft={draft} />}
      <SavedLines
        label="Ready phrases for the technician's notes, one a line"
        lines={phrases}
        onSave={(next) => draft.change(setPlan("phrases", next))}
      />
      <LinksField links={links} onChange={(next) => draft.change(setPlan("links", next))} />
    </fieldset>
  );
}
