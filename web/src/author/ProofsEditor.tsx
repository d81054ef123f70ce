import { Button, Menu, Select, TextInput } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useEffect, useState } from "react";
import type { Proof } from "../api/types";
import { SavedNumber } from "./StepDetails";

const KINDS: { kind: Proof["kind"]; name: string }[] = [
  { kind: "tick", name: "Tick" },
  { kind: "reading", name: "Reading with limits" },
  { kind: "yes_no", name: "Yes or no" },
  { kind: "one_of", name: "One of" },
  { kind: "text", name: "Text" },
  { kind: "photo", name: "Photo" },
];

const NO_LIMITS = { low_low: null, low: null, high: null, high_high: null };

const UNITS = [
  "bar",
  "kPa",
  "psi",
  "°C",
  "°F",
  "A",
  "mA",
  "V",
  "kW",
  "Ω",
  "MΩ",
  "mm",
  "cm",
  "m",
  "m³/h",
  "l",
  "l/s",
  "min",
  "%",
  "Hz",
  "N·m",
];

/** Identities made here are new by chance: 50 random bits; the server refuses one used twice. */
function newId(prefix: string): string {
  const bytes = crypto.getRandomValues(new Uint8Array(7));
  return `${prefix}-${Array.from(bytes, (b) => (b % 36).toString(36)).join("")}${Date.now().toString(36).slice(-4)}`;
}

function blank(kind: Proof["kind"]): Proof {
  const id = newId("q");
  switch (kind) {
    case "tick":
      return { kind, id, label: "Done" };
    case "reading":
      return {
        kind,
        id,
        label: "",
        unit: "",
        limits: NO_LIMITS,
        lowest: null,
        highest: null,
      };
    case "one_of":
      return {
        kind,
        id,
        label: "",
        options: [
          { id: newId("o"), label: "" },
          { id: newId("o"), label: "" },
        ],
      };
    case "photo":
      return { kind, id, label: "", moment: "any" };
    default:
      return { kind, id, label: "" };
  }
}

/** What the step needs before it counts as done. */
export function ProofsEditor({
  proofs,
  onChange,
}: {
  proofs: Proof[];
  onChange: (rework: (proofs: Proof[]) => Proof[]) => void;
}) {
  const set = (id: string, part: Partial<Proof>) =>
    onChange((all) => all.map((p) => (p.id === id ? ({ ...p, ...part } as Proof) : p)));
  return (
    <>
      {proofs.map((proof) => (
        <div key={proof.id} className="proof-row">
          <div className="clause">
            <Select
              aria-label="Kind of proof"
              w={150}
              allowDeselect={false}
              data={KINDS.map((k) => ({ value: k.kind, label: k.name }))}
              value={proof.kind}
              onChange={(kind) =>
                kind &&
                onChange((all) =>
                  all.map((p) =>
                    p.id === proof.id ? ({ ...blank(kind as Proof["kind"]), label: p.label } as Proof) : p,
                  ),
                )
              }
            />
            <SavedText
              label={proof.kind === "photo" ? "Photo of" : "Question"}
              placeholder={proof.kind === "photo" ? "what" : "what is asked"}
              value={proof.label}
              onSave={(label) => set(proof.id, { label })}
            />
            <Button
              variant="subtle"
              color="slate"
              onClick={() => onChange((all) => all.filter((p) => p.id !== proof.id))}
            >
              Remove
            </Button>
          </div>
          {proof.kind === "reading" && (
            <div className="clause" style={{ alignItems: "flex-end" }}>
              <Select
                label="Unit"
                w={84}
                searchable
                data={proof.unit && !UNITS.includes(proof.unit) ? [proof.unit, ...UNITS] : UNITS}
                value={proof.unit || null}
                onChange={(unit) => set(proof.id, { unit: unit ?? "" })}
              />
              {(
                [
                  ["low_low", "Stop below"],
                  ["low", "Low"],
                  ["high", "High"],
                  ["high_high", "Stop above"],
                ] as const
              ).map(([key, label]) => (
                <SavedNumber
                  key={key}
                  label={label}
                  width={84}
                  value={proof.limits[key]}
                  onSave={(value) => set(proof.id, { limits: { ...proof.limits, [key]: value } })}
                />
              ))}
              {(
                [
                  ["lowest", "Shows from"],
                  ["highest", "Shows to"],
                ] as const
              ).map(([key, label]) => (
                <SavedNumber
                  key={key}
                  label={label}
                  width={84}
                  value={proof[key]}
                  onSave={(value) => set(proof.id, { [key]: value })}
                />
              ))}
            </div>
          )}
          {proof.kind === "photo" && (
            <div className="clause">
              <Select
                label="When"
                w={130}
                allowDeselect={false}
                data={["any", "before", "nameplate", "after"]}
                value={proof.moment}
                onChange={(moment) => set(proof.id, { moment: moment as typeof proof.moment })}
              />
            </div>
          )}
          {proof.kind === "one_of" && (
            <div className="clause">
              {proof.options.map((option, j) => (
                <span key={option.id} className="clause">
                  <SavedText
                    label={`Answer ${j + 1}`}
                    placeholder={`answer ${j + 1}`}
                    width={130}
                    value={option.label}
                    onSave={(label) =>
                      set(proof.id, {
                        options: proof.options.map((o) => (o.id === option.id ? { ...o, label } : o)),
                      })
                    }
                  />
                  <button
                    type="button"
                    className="linklike"
                    aria-label={`Remove answer ${j + 1}`}
                    onClick={() =>
                      set(proof.id, { options: proof.options.filter((o) => o.id !== option.id) })
                    }
                  >
                    remove
                  </button>
                </span>
              ))}
              <Button
                variant="subtle"
                color="slate"
                onClick={() => set(proof.id, { options: [...proof.options, { id: newId("o"), label: "" }] })}
              >
                Add answer
              </Button>
            </div>
          )}
        </div>
      ))}
      <Menu position="bottom-start">
        <Menu.Target>
          <Button variant="default" leftSection={<IconPlus size={15} />}>
            Add proof
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {KINDS.map((k) => (
            <Menu.Item key={k.kind} onClick={() => onChange((all) => [...all, blank(k.kind)])}>
              {k.name}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </>
  );
}

function SavedText({
  label,
  value,
  placeholder,
  width = 250,
  onSave,
}: {
  label: string;
  value: string;
  placeholder?: string;
  width?: number;
  onSave: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <TextInput
      aria-label={label}
      placeholder={placeholder}
      w={width}
      value={text}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={() => text.trim() !== value && onSave(text.trim())}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}
