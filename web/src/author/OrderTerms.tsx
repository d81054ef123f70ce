import { Button, MultiSelect, Select } from "@mantine/core";
import { IconArrowBackUp } from "@tabler/icons-react";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import {
  guidanceChanged,
  keys,
  useCache,
  useCatalogue,
  useChoices,
  useSharedDocuments,
} from "../api/queries";
import type { IncidentType, IncidentTypePage, IncidentTypeView, Level } from "../api/types";
import { SavedNumber, SavedText } from "../draft/saved-fields";
import { chosenAnew, rework, setPlan, useDraft } from "../draft/use-draft";
import { count, minutes, number } from "../ui/format";
import { toolAmount } from "../ui/need-words";
import { useAct } from "../ui/use-act";

const skillText = (need: { skill: string; level: Level }) => `${need.skill} ${need.level}`;

/** The terms that an order gets from its incident type when it is logged, in one line; opened, to change them. */
export function OrderTerms({ view, writes }: { view: IncidentTypeView; writes: boolean }) {
  const lists = useCatalogue().data;
  const levels = useChoices().data?.levels ?? [];
  const forms = (useSharedDocuments().data ?? []).filter((row) => row.link.kind === "form");
  const cache = useCache();
  const { act } = useAct(guidanceChanged);
  const keeper = useMemo(
    () => ({
      put: (next: IncidentTypeView) =>
        cache.setQueryData<IncidentTypePage>(
          keys.page(view.document),
          (held) => held && { ...held, incident_type: next },
        ),
      again: () => cache.refetchQueries({ queryKey: keys.page(view.document) }),
    }),
    [cache, view.document],
  );
  const draft = useDraft<IncidentTypeView>(view, keeper);
  const [open, setOpen] = useState(false);
  const { content } = view;
  const name = (list: { code: string; name: string }[] | undefined, code: string) =>
    list?.find((item) => item.code === code)?.name ?? code;
  const { charges } = content;
  const told = [
    content.category && name(lists?.categories, content.category).toLowerCase(),
    content.expected_minutes !== null && `${minutes(content.expected_minutes)} expected`,
    content.due_within_days !== null && `a visit within ${count(content.due_within_days, "day")}`,
    charges.labour_per_hour > 0 && `${number(charges.labour_per_hour)} ${charges.currency} an hour`,
    charges.fixed > 0 && `${number(charges.fixed)} ${charges.currency} fixed`,
    ...content.forms.map((f) => forms.find((row) => row.link.document === f)?.link.title ?? f),
    ...content.skills.map((s) => `${name(lists?.skills, s.skill).toLowerCase()} ${s.level}`),
    ...content.parts.map((p) => `${number(p.quantity)} ${name(lists?.parts, p.part)}`),
    ...content.tools.map((t) => toolAmount(lists?.tools, t.tool, t.quantity)),
  ].filter(Boolean);

  async function begin() {
    const begun = await act(() =>
      need(
        client.POST("/api/v1/documents/{document}/draft", { params: { path: { document: view.document } } }),
      ),
    );
    if (begun) setOpen(true);
  }

  function set<F extends keyof IncidentType>(field: F, value: IncidentType[F]) {
    return draft.change(setPlan(field, value));
  }

  function remake<F extends keyof IncidentType & string>(
    field: F,
    make: (now: IncidentType[F]) => IncidentType[F],
  ) {
    return draft.change(rework<IncidentType, F>(field, make));
  }

  return (
    <section className="order-terms" aria-label="Order terms">
      <p className="near">
        {told.length
          ? `Orders of this type get: ${told.join(", ")}`
          : "Orders of this type get no category, charges or expected minutes"}
        {". "}
        <Link to={`/match/crew?document=${view.document}`}>Who can do it</Link>
        {", "}
        <Link to={`/match/kits?type=${view.document}`}>the kit to carry</Link>
        {"."}
        {writes && view.state !== "In review" && (
          <Button
            variant="subtle"
            size="compact-xs"
            aria-expanded={open && view.state === "Draft"}
            onClick={() => (view.state === "Draft" ? setOpen(!open) : begin())}
          >
            {open && view.state === "Draft" ? "Close" : "Set order terms"}
          </Button>
        )}
      </p>
      {open && view.state === "Draft" && lists && (
        <fieldset className="order-terms-fields">
          <legend className="skip">Order terms</legend>
          <div className="actions" style={{ alignItems: "flex-end" }}>
            <Select
              label="Category"
              clearable
              w={160}
              data={lists.categories.map((c) => ({ value: c.code, label: c.name }))}
              value={content.category || null}
              onChange={(v) => set("category", v ?? "")}
            />
            <SavedNumber
              label="Expected minutes"
              value={content.expected_minutes}
              onSave={(v) => set("expected_minutes", v)}
            />
            <SavedNumber
              label="Routine: days until made"
              width={170}
              value={content.due_within_days}
              onSave={(v) => set("due_within_days", v)}
            />
            <SavedNumber
              label="Labour an hour"
              value={charges.labour_per_hour}
              onSave={(v) => remake("charges", (now) => ({ ...now, labour_per_hour: v ?? 0 }))}
            />
            <SavedNumber
              label="Fixed charge"
              value={charges.fixed}
              onSave={(v) => remake("charges", (now) => ({ ...now, fixed: v ?? 0 }))}
            />
            <SavedText
              label="Currency"
              shown
              width={80}
              value={charges.currency}
              onSave={(v) => remake("charges", (now) => ({ ...now, currency: v }))}
            />
            <Button
              variant="default"
              px={8}
              aria-label="Undo the last change of order terms"
              disabled={!draft.canUndo}
              onClick={draft.undo}
            >
              <IconArrowBackUp size={17} />
            </Button>
            <span className="saving" role="status" data-state={draft.saving.state}>
              {draft.saving.words}
            </span>
          </div>
          <MultiSelect
            label="Forms that come with it"
            searchable
            mt={6}
            data={forms.map(({ link }) => ({ value: link.document, label: link.title }))}
            value={content.forms}
            onChange={(v) => remake("forms", chosenAnew(content.forms, v))}
          />
          <MultiSelect
            label="Skills wanted besides those of the steps"
            searchable
            mt={6}
            data={lists.skills.flatMap((s) =>
              levels.map((level) => ({ value: `${s.code} ${level}`, label: `${s.name} ${level}` })),
            )}
            value={content.skills.map(skillText)}
            onChange={(v) =>
              remake("skills", (now) =>
                chosenAnew(
                  content.skills.map(skillText),
                  v,
                )(now.map(skillText)).map((text) => {
                  const at = text.lastIndexOf(" ");
                  return { skill: text.slice(0, at), level: text.slice(at + 1) as Level };
                }),
              )
            }
          />
          <Besides
            label="Parts wanted besides those of the steps"
            list={lists.parts}
            needs={content.parts}
            codeOf={(need) => need.part}
            newNeed={(part) => ({ part, quantity: 1, condition: null })}
            onChange={(make) => remake("parts", make)}
          />
          <Besides
            label="Tools wanted besides those of the steps"
            list={lists.tools}
            needs={content.tools}
            codeOf={(need) => need.tool}
            newNeed={(tool) => ({ tool, quantity: 1 })}
            onChange={(make) => remake("tools", make)}
          />
        </fieldset>
      )}
      {draft.clash && (
        <p className="note bad" role="alert">
          {draft.clash.message}{" "}
          <button type="button" className="linklike" onClick={draft.clash.again}>
            Make my change again
          </button>{" "}
          <button type="button" className="linklike" onClick={draft.clash.drop}>
            Keep theirs
          </button>
        </p>
      )}
    </section>
  );
}

interface BesidesProps<N extends { quantity: number }> {
  label: string;
  list: { code: string; name: string }[];
  needs: N[];
  codeOf: (need: N) => string;
  newNeed: (code: string) => N;
  onChange: (make: (now: N[]) => N[]) => void;
}

/** Parts or tools that the type wants besides those of the steps, each with how many. */
function Besides<N extends { quantity: number }>(props: BesidesProps<N>) {
  const { label, list, needs, codeOf, newNeed, onChange } = props;
  const chosen = needs.map(codeOf);
  return (
    <>
      <MultiSelect
        label={label}
        searchable
        mt={6}
        data={list.map((one) => ({ value: one.code, label: one.name }))}
        value={chosen}
        onChange={(v) =>
          onChange((now) =>
            chosenAnew(
              chosen,
              v,
            )(now.map(codeOf)).map((code) => now.find((need) => codeOf(need) === code) ?? newNeed(code)),
          )
        }
      />
      {needs.length > 0 && (
        <div className="actions under">
          {needs.map((need) => {
            const code = codeOf(need);
            return (
              <SavedNumber
                key={code}
                label={`How many: ${list.find((one) => one.code === code)?.name ?? code}`}
                value={need.quantity}
                width={180}
                onSave={(v) =>
                  onChange((now) =>
                    now.map((one) => (codeOf(one) === code ? { ...one, quantity: v ?? 1 } : one)),
                  )
                }
              />
            );
          })}
        </div>
      )}
    </>
  );
}
