import { Button, NumberInput, Select, TextInput } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useEffect, useState } from "react";
import { useOperators } from "../api/queries";
import type { Comparison, Condition, OperatorChoice, PlanView, Proof, Step } from "../api/types";

/** Operators that make sense for each kind of question; the server knows what each means. */
const OFFERED: Record<Proof["kind"], Comparison["operator"][]> = {
  tick: ["answered"],
  reading: ["below", "at most", "above", "at least", "between", "answered"],
  yes_no: ["is", "answered"],
  one_of: ["is", "is not", "is one of", "answered"],
  text: ["is", "is not", "answered"],
  photo: ["answered"],
};

/** A condition as clauses joined by and, or; each built from menus. Deeper trees are shown whole. */
export function ConditionEditor({
  plan,
  step,
  onChange,
}: {
  plan: PlanView;
  step: Step;
  onChange: (condition: Condition | null) => void;
}) {
  const operators = useOperators().data ?? [];
  const index = plan.content.steps.findIndex((s) => s.id === step.id);
  const earlier = plan.content.steps
    .slice(0, index)
    .flatMap((s) => s.proofs.map((proof) => ({ step: s, proof })));
  const flat = clausesOf(step.condition as Condition | null);
  if (flat === null) {
    const words = plan.steps.find((v) => v.step === step.id)?.when;
    return (
      <div className="clause">
        <span>{words}</span>
        <Button variant="subtle" color="slate" onClick={() => onChange(null)}>
          Take the condition off
        </Button>
      </div>
    );
  }
  const { join, clauses } = flat;
  const put = (next: Comparison[], how: "all" | "any" = join) =>
    onChange(
      next.length === 0 ? null : next.length === 1 ? (next[0] as Condition) : { kind: how, parts: next },
    );

  return (
    <>
      {clauses.length === 0 && <span className="soft">Always. </span>}
      {clauses.map((clause, i) => (
        <div className="clause" key={i}>
          <span className="clause-word">
            {i === 0 ? (
              "when"
            ) : (
              <Select
                aria-label="Joined by"
                w={66}
                allowDeselect={false}
                data={[
                  { value: "all", label: "and" },
                  { value: "any", label: "or" },
                ]}
                value={join}
                onChange={(how) => put(clauses, how as "all" | "any")}
              />
            )}
          </span>
          <Clause
            clause={clause}
            questions={earlier}
            operators={operators}
            onChange={(next) => put(clauses.map((c, j) => (j === i ? next : c)))}
          />
          <Button variant="subtle" color="slate" onClick={() => put(clauses.filter((_, j) => j !== i))}>
            Remove
          </Button>
        </div>
      ))}
      {earlier.length > 0 ? (
        <Select
          placeholder={clauses.length ? "And depending on…" : "Depending on an earlier answer…"}
          aria-label="Depend on an earlier answer"
          leftSection={<IconPlus size={14} />}
          w={330}
          searchable
          data={earlier.map(({ proof, step: s }) => ({
            value: proof.id,
            label: `${proof.label}, ${s.text}`,
          }))}
          value={null}
          onChange={(question) => {
            const found = earlier.find((q) => q.proof.id === question);
            if (found) put([...clauses, begin(found.proof)]);
          }}
        />
      ) : (
        <span className="soft">No question is asked before this step.</span>
      )}
    </>
  );
}

function clausesOf(condition: Condition | null): { join: "all" | "any"; clauses: Comparison[] } | null {
  if (condition === null) return { join: "all", clauses: [] };
  if (condition.kind === "comparison") return { join: "all", clauses: [condition] };
  if (condition.kind === "not") return null;
  const parts = condition.parts as Condition[];
  if (parts.some((part) => part.kind !== "comparison")) return null;
  return { join: condition.kind, clauses: parts as Comparison[] };
}

/** The comparison a new clause starts from: the likeliest thing one asks of such a question. */
function begin(proof: Proof): Comparison {
  const base = { kind: "comparison" as const, question: proof.id, upper: null };
  switch (proof.kind) {
    case "reading":
      return proof.limits.low !== null
        ? { ...base, operator: "below", value: proof.limits.low }
        : { ...base, operator: "above", value: proof.limits.high };
    case "yes_no":
      return { ...base, operator: "is", value: true };
    case "one_of":
      return { ...base, operator: "is", value: proof.options[0]?.id ?? null };
    default:
      return { ...base, operator: "answered", value: null };
  }
}

function Clause({
  clause,
  questions,
  operators,
  onChange,
}: {
  clause: Comparison;
  questions: { step: Step; proof: Proof }[];
  operators: OperatorChoice[];
  onChange: (clause: Comparison) => void;
}) {
  const proof = questions.find((q) => q.proof.id === clause.question)?.proof;
  const offered = operators.filter((o) => !proof || OFFERED[proof.kind].includes(o.key));
  return (
    <>
      <b>{proof?.label ?? "a question that is gone"}</b>
      <Select
        aria-label="Comparison"
        w={126}
        allowDeselect={false}
        data={offered.map((o) => ({ value: o.key, label: o.key === "is one of" ? "is one of" : o.words }))}
        value={clause.operator}
        onChange={(operator) => {
          const key = operator as Comparison["operator"];
          const value =
            key === "is one of"
              ? [clause.value as string]
              : Array.isArray(clause.value)
                ? (clause.value[0] ?? null)
                : clause.value;
          onChange({ ...clause, operator: key, value });
        }}
      />
      <ValueField clause={clause} proof={proof} onChange={onChange} />
    </>
  );
}

function ValueField({
  clause,
  proof,
  onChange,
}: {
  clause: Comparison;
  proof: Proof | undefined;
  onChange: (clause: Comparison) => void;
}) {
  if (clause.operator === "answered" || !proof) return null;
  if (proof.kind === "yes_no")
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
  if (proof.kind === "one_of") {
    const data = proof.options.map((o) => ({ value: o.id, label: o.label }));
    if (clause.operator === "is one of") {
      const chosen = Array.isArray(clause.value) ? (clause.value as string[]) : [];
      return (
        <>
          {data.map((option) => (
            <label key={option.value} className="clause">
              <input
                type="checkbox"
                checked={chosen.includes(option.value)}
                onChange={(e) =>
                  onChange({
                    ...clause,
                    value: e.currentTarget.checked
                      ? [...chosen, option.value]
                      : chosen.filter((c) => c !== option.value),
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
        w={150}
        allowDeselect={false}
        data={data}
        value={clause.value as string | null}
        onChange={(value) => onChange({ ...clause, value })}
      />
    );
  }
  if (proof.kind === "reading")
    return (
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
        <span>{proof.unit}</span>
      </>
    );
  return (
    <TextInput
      aria-label="Value"
      w={150}
      defaultValue={(clause.value as string | null) ?? ""}
      onBlur={(e) =>
        e.currentTarget.value !== clause.value && onChange({ ...clause, value: e.currentTarget.value })
      }
    />
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
  const [entry, setEntry] = useState<number | string>(value ?? "");
  useEffect(() => setEntry(value ?? ""), [value]);
  return (
    <NumberInput
      aria-label={label}
      w={80}
      value={entry}
      onChange={setEntry}
      onBlur={() => {
        const next = entry === "" ? null : +entry;
        if (next !== value) onSave(next);
      }}
    />
  );
}
