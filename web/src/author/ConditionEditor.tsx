import { NumberInput, Select, TextInput } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useEffect, useState } from "react";
import { useChoices } from "../api/queries";
import type { Comparison, Condition, OperatorChoice } from "../api/types";
import { useEntry } from "../draft/use-entry";
import { useKeys } from "../ui/use-keys";
import type { Askable } from "./askable";

type Group = Extract<Condition, { kind: "all" | "any" }>;

/** A condition as clauses joined by and, or; each built from menus, groups within groups where wanted. */
export function ConditionEditor({
  condition,
  asked,
  empty = "Always. ",
  placeholder = "Depending on an earlier answer…",
  lead = "when",
  label = "Depend on an earlier answer",
  onChange,
}: {
  condition: Condition | null;
  asked: Askable[];
  empty?: string;
  placeholder?: string;
  /** The word before the first clause. */
  lead?: string;
  /** What the menu that adds a clause is called. */
  label?: string;
  onChange: (condition: Condition | null) => void;
}) {
  const operators = useChoices().data?.operators ?? [];
  const [now, change] = useLatest(condition, onChange);
  if (asked.length === 0 && now === null)
    return <span className="soft">No question is asked before this.</span>;
  return (
    <>
      {now === null && <span className="soft">{empty}</span>}
      <Clauses
        condition={now}
        asked={asked}
        operators={operators}
        placeholder={placeholder}
        lead={lead}
        label={label}
        depth={0}
        onChange={change}
      />
    </>
  );
}

/**
 * The condition as it was last changed here, until the server has that very one: a second change made
 * before the first came back builds on the first.
 */
function useLatest(
  condition: Condition | null,
  onChange: (condition: Condition | null) => void,
): [Condition | null, (condition: Condition | null) => void] {
  const [ahead, setAhead] = useState<{ condition: Condition | null; from: string } | null>(null);
  const held = JSON.stringify(condition);
  useEffect(() => {
    // What arrives is either the change that went out, or what it was changed from: then it is waited for.
    if (ahead && held !== ahead.from && held === JSON.stringify(ahead.condition)) setAhead(null);
  }, [held, ahead]);
  useEffect(() => {
    if (!ahead) return;
    // A change that was refused never comes back.
    const timer = setTimeout(() => setAhead(null), 6_000);
    return () => clearTimeout(timer);
  }, [ahead]);
  return [
    ahead ? ahead.condition : condition,
    (next) => {
      setAhead({ condition: next, from: held });
      onChange(next);
    },
  ];
}

interface NodeProps {
  asked: Askable[];
  operators: OperatorChoice[];
  placeholder: string;
  lead: string;
  label: string;
  depth: number;
}

function Clauses({
  condition,
  onChange,
  ...rest
}: NodeProps & { condition: Condition | null; onChange: (condition: Condition | null) => void }) {
  const group = asGroup(condition);
  const parts = group.parts as Condition[];
  const { keys, drop } = useKeys(parts.length);
  const remove = (i: number) => {
    drop(i);
    put(parts.filter((_, j) => j !== i));
  };
  const put = (next: Condition[], how: Group["kind"] = group.kind) =>
    onChange(
      next.length === 0 ? null : next.length === 1 ? (next[0] as Condition) : { kind: how, parts: next },
    );
  return (
    <div className="clauses" data-depth={rest.depth || undefined}>
      {parts.map((part, i) => (
        <div className="clause" key={keys[i]}>
          <span className="clause-word">
            {i === 0 ? (
              rest.depth ? (
                "("
              ) : (
                rest.lead
              )
            ) : (
              <Select
                aria-label="Joined by"
                w={66}
                allowDeselect={false}
                data={[
                  { value: "all", label: "and" },
                  { value: "any", label: "or" },
                ]}
                value={group.kind}
                onChange={(how) => put(parts, how as Group["kind"])}
              />
            )}
          </span>
          <Part
            {...rest}
            condition={part}
            onChange={(next) => (next ? put(parts.map((p, j) => (j === i ? next : p))) : remove(i))}
          />
          <button type="button" className="linklike" onClick={() => remove(i)}>
            Remove
          </button>
        </div>
      ))}
      <div className="clause">
        <AskWhich
          asked={rest.asked}
          placeholder={parts.length ? "And depending on…" : rest.placeholder}
          label={rest.depth ? "Depend on another answer here" : rest.label}
          onChoose={(found) => put([...parts, found.first])}
        />
        {parts.length > 0 && rest.depth < 3 && (
          <AskWhich
            asked={rest.asked}
            placeholder="And a group of…"
            label="Add a group of clauses"
            onChoose={(found) =>
              put([...parts, { kind: group.kind === "all" ? "any" : "all", parts: [found.first] }])
            }
          />
        )}
      </div>
    </div>
  );
}

function asGroup(condition: Condition | null): Group {
  if (condition === null) return { kind: "all", parts: [] };
  if (condition.kind === "all" || condition.kind === "any") return condition;
  return { kind: "all", parts: [condition] };
}

function Part({
  condition,
  onChange,
  ...rest
}: NodeProps & { condition: Condition; onChange: (condition: Condition | null) => void }) {
  if (condition.kind === "comparison")
    return (
      <>
        <Clause clause={condition} asked={rest.asked} operators={rest.operators} onChange={onChange} />
        <button type="button" className="linklike" onClick={() => onChange({ kind: "not", part: condition })}>
          turn round
        </button>
      </>
    );
  if (condition.kind === "not")
    return (
      <>
        <b>not</b>
        <Part
          {...rest}
          condition={condition.part as Condition}
          onChange={(part) =>
            onChange(part && part.kind === "not" ? (part.part as Condition) : part && { kind: "not", part })
          }
        />
      </>
    );
  return <Clauses {...rest} depth={rest.depth + 1} condition={condition} onChange={onChange} />;
}

function AskWhich({
  asked,
  placeholder,
  label,
  onChoose,
}: {
  asked: Askable[];
  placeholder: string;
  label: string;
  onChoose: (asked: Askable) => void;
}) {
  return (
    <Select
      placeholder={placeholder}
      aria-label={label}
      leftSection={<IconPlus size={14} />}
      w={290}
      searchable
      data={asked.map((a) => ({ value: a.id, label: `${a.label}, ${a.from}` }))}
      value={null}
      onChange={(id) => {
        const found = asked.find((a) => a.id === id);
        if (found) onChoose(found);
      }}
    />
  );
}

function Clause({
  clause,
  asked,
  operators,
  onChange,
}: {
  clause: Comparison;
  asked: Askable[];
  operators: OperatorChoice[];
  onChange: (clause: Comparison) => void;
}) {
  const found = asked.find((a) => a.id === clause.question);
  const offered = operators.filter(
    (o) => !found || o.kinds.includes(found.kind) || o.key === clause.operator,
  );
  const several = operators.find((o) => o.key === clause.operator)?.several ?? false;
  return (
    <>
      <b>{found?.label ?? "a question that is gone"}</b>
      {found?.per !== undefined && (
        <Select
          aria-label="Of which"
          w={150}
          allowDeselect={false}
          data={[
            { value: "same", label: `of the same ${found.per}` },
            { value: "any", label: `of any ${found.per}` },
            { value: "every", label: `of every ${found.per}` },
          ]}
          value={clause.repeats}
          onChange={(repeats) => onChange({ ...clause, repeats: repeats as Comparison["repeats"] })}
        />
      )}
      <Select
        aria-label="Comparison"
        w={126}
        allowDeselect={false}
        data={offered.map((o) => ({ value: o.key, label: o.words }))}
        value={clause.operator}
        onChange={(operator) =>
          onChange(
            withOperator(
              clause,
              offered.find((o) => o.key === operator),
            ),
          )
        }
      />
      <ValueField clause={clause} asked={asked} found={found} several={several} onChange={onChange} />
    </>
  );
}

/** The same clause under another operator, its value kept where it still fits. */
function withOperator(clause: Comparison, operator: OperatorChoice | undefined): Comparison {
  if (!operator) return clause;
  const values = Array.isArray(clause.value) ? clause.value : clause.value === null ? [] : [clause.value];
  const value = operator.several ? (values as string[]) : ((values[0] ?? null) as Comparison["value"]);
  return { ...clause, operator: operator.key, value };
}

function ValueField({
  clause,
  asked,
  found,
  several,
  onChange,
}: {
  clause: Comparison;
  asked: Askable[];
  found: Askable | undefined;
  several: boolean;
  onChange: (clause: Comparison) => void;
}) {
  if (clause.operator === "answered" || clause.operator === "not answered" || !found) return null;
  if (found.kind === "yes_no")
    return (
      <Select
        aria-label="Value"
        w={70}
        allowDeselect={false}
        data={["yes", "no"]}
        value={clause.value ? "yes" : "no"}
        onChange={(v) => onChange({ ...clause, value: v === "yes" })}
      />
    );
  if (found.options.length > 0) {
    if (several || Array.isArray(clause.value)) {
      const chosen = Array.isArray(clause.value) ? (clause.value as string[]) : [];
      return (
        <>
          {found.options.map((option) => (
            <label key={option.id} className="clause">
              <input
                type="checkbox"
                checked={chosen.includes(option.id)}
                onChange={(e) =>
                  onChange({
                    ...clause,
                    value: e.currentTarget.checked
                      ? [...chosen, option.id]
                      : chosen.filter((c) => c !== option.id),
                  })
                }
              />
              {option.label}
            </label>
          ))}
        </>
      );
    }
    return (
      <Select
        aria-label="Value"
        w={170}
        allowDeselect={false}
        searchable
        data={found.options.map((o) => ({ value: o.id, label: o.label || "an answer without words" }))}
        value={clause.value as string | null}
        onChange={(value) => onChange({ ...clause, value })}
      />
    );
  }
  if (["reading", "computed", "meter"].includes(found.kind))
    return <NumberOrQuestion clause={clause} asked={asked} found={found} onChange={onChange} />;
  return (
    <TextInput
      aria-label="Value"
      w={150}
      type={found.kind === "date" ? "date" : "text"}
      defaultValue={(clause.value as string | null) ?? ""}
      onBlur={(e) =>
        e.currentTarget.value !== clause.value && onChange({ ...clause, value: e.currentTarget.value })
      }
    />
  );
}

/** A number, or the answer to another question in the same unit. */
function NumberOrQuestion({
  clause,
  asked,
  found,
  onChange,
}: {
  clause: Comparison;
  asked: Askable[];
  found: Askable;
  onChange: (clause: Comparison) => void;
}) {
  const others = asked.filter((a) => a.id !== found.id && a.unit !== undefined && a.unit === found.unit);
  return (
    <>
      {clause.against === null && (
        <>
          <NumberValue
            label="Value"
            value={clause.value as number | null}
            onSave={(value) => onChange({ ...clause, value })}
          />
          {clause.operator === "between" && (
            <>
              and
              <NumberValue
                label="Upper value"
                value={clause.upper}
                onSave={(upper) => onChange({ ...clause, upper })}
              />
            </>
          )}
          <span>{found.unit}</span>
        </>
      )}
      {others.length > 0 && clause.operator !== "between" && (
        <Select
          aria-label="Compared with"
          w={170}
          allowDeselect={false}
          data={[{ value: "", label: "a number" }, ...others.map((o) => ({ value: o.id, label: o.label }))]}
          value={clause.against ?? ""}
          onChange={(against) => onChange({ ...clause, against: against || null, value: null })}
        />
      )}
    </>
  );
}

function NumberValue({
  label,
  value,
  onSave,
}: {
  label: string;
  value: number | null;
  onSave: (value: number | null) => void;
}) {
  const { entry, type, leave } = useEntry<number | string>(value ?? "");
  return (
    <NumberInput
      aria-label={label}
      w={80}
      value={entry}
      onChange={type}
      onBlur={() => {
        leave();
        const next = entry === "" ? null : +entry;
        if (next !== value) onSave(next);
      }}
    />
  );
}
