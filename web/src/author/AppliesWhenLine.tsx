import { Button, MultiSelect, Popover, Select } from "@mantine/core";
import type { ReactNode } from "react";
import { useCatalogue } from "../api/queries";
import type { Plan, PlanView } from "../api/types";
import { chosenAnew, type Draft, rework } from "../draft/use-draft";

/** When the plan is put on an order, as a sentence; the cells open beside it. */
export function AppliesWhenLine({
  plan,
  editable,
  draft,
  otherwise,
}: {
  plan: PlanView;
  editable: boolean;
  draft: Draft;
  /** What is said while no cell is filled, of something that need not apply by itself. */
  otherwise?: ReactNode;
}) {
  const catalogue = useCatalogue();
  const lists = catalogue.data;
  if (!lists) return null;
  const cells = plan.content.applies_when;
  const set = (part: (now: Plan["applies_when"]) => Partial<Plan["applies_when"]>) =>
    draft.change(rework<Plan, "applies_when">("applies_when", (now) => ({ ...now, ...part(now) })));
  const label = <T extends { code: string }>(list: T[], code: string, name: (item: T) => string) => {
    const found = list.find((item) => item.code === code);
    return found ? name(found) : code;
  };
  const none = !cells.equipment && cells.models.length + cells.symptoms.length === 0;
  const words = [
    `equipment is ${cells.equipment ? label(lists.equipment, cells.equipment, (c) => c.name.toLowerCase()) : "any"}`,
    `model is ${cells.models.map((m) => label(lists.models, m, (x) => x.name)).join(" or ") || "any"}`,
    `symptom is ${cells.symptoms.map((s) => label(lists.symptoms, s, (x) => x.label.toLowerCase())).join(" or ") || "any"}`,
  ].join(", ");
  return (
    <div className="applies">
      <span>{otherwise && none ? otherwise : `Applies by itself when ${words}.`}</span>
      {editable && (
        <Popover position="bottom-start" width={330} trapFocus>
          <Popover.Target>
            <Button variant="subtle" size="compact-xs">
              Change
            </Button>
          </Popover.Target>
          <Popover.Dropdown>
            <Select
              label="Equipment is a"
              searchable
              clearable
              placeholder="any"
              comboboxProps={{ withinPortal: false }}
              data={lists.equipment.map((c) => ({ value: c.code, label: c.name }))}
              value={cells.equipment}
              onChange={(equipment) => set(() => ({ equipment }))}
            />
            <MultiSelect
              label="Model is one of"
              searchable
              clearable
              mt={6}
              placeholder={cells.models.length ? "" : "any"}
              comboboxProps={{ withinPortal: false }}
              data={lists.models.map((m) => ({ value: m.code, label: m.name }))}
              value={cells.models}
              onChange={(models) => set((now) => ({ models: chosenAnew(cells.models, models)(now.models) }))}
            />
            <MultiSelect
              label="Symptom is one of"
              searchable
              clearable
              mt={6}
              placeholder={cells.symptoms.length ? "" : "any"}
              comboboxProps={{ withinPortal: false }}
              data={lists.symptoms.map((s) => ({ value: s.code, label: s.label }))}
              value={cells.symptoms}
              onChange={(symptoms) =>
                set((now) => ({ symptoms: chosenAnew(cells.symptoms, symptoms)(now.symptoms) }))
              }
            />
          </Popover.Dropdown>
        </Popover>
      )}
    </div>
  );
}
