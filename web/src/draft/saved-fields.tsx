import { NumberInput, Textarea, TextInput } from "@mantine/core";
import { useEntry } from "./use-entry";
import "./saved-fields.css";

/** Fields that save when one leaves them, and not before. */

const NOT_SAVED = "Not saved";

export function SavedText({
  label,
  shown = false,
  value,
  placeholder,
  width = 250,
  mono = false,
  onSave,
}: {
  label: string;
  /** Whether the label stands above the field; a field on its own row has it for screen readers alone. */
  shown?: boolean;
  value: string;
  placeholder?: string;
  width?: number | string;
  mono?: boolean;
  onSave: (value: string) => unknown;
}) {
  const { entry: text, type, leave, keep, refused } = useEntry(value);
  return (
    <TextInput
      label={shown ? label : undefined}
      aria-label={label}
      placeholder={placeholder}
      w={width}
      className={mono ? "mono-field" : undefined}
      error={refused ? NOT_SAVED : undefined}
      value={text}
      onChange={(e) => type(e.currentTarget.value)}
      onBlur={() => {
        leave();
        if (text.trim() !== value) keep(onSave(text.trim()));
      }}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

export function SavedTextarea({
  label,
  value,
  placeholder,
  onSave,
}: {
  label: string;
  value: string;
  placeholder?: string;
  onSave: (value: string) => unknown;
}) {
  const { entry: text, type, leave, keep, refused } = useEntry(value);
  return (
    <Textarea
      label={label}
      autosize
      minRows={1}
      placeholder={placeholder}
      error={refused ? NOT_SAVED : undefined}
      value={text}
      onChange={(e) => type(e.currentTarget.value)}
      onBlur={() => {
        leave();
        if (text.trim() !== value) keep(onSave(text.trim()));
      }}
    />
  );
}

export function SavedNumber({
  label,
  shown = true,
  value,
  onSave,
  max,
  width = 130,
}: {
  label: string;
  shown?: boolean;
  value: number | null;
  onSave: (value: number | null) => unknown;
  max?: number;
  width?: number;
}) {
  const { entry, type, leave, keep, refused } = useEntry<number | string>(value ?? "");
  return (
    <NumberInput
      label={shown ? label : undefined}
      aria-label={label}
      w={width}
      max={max}
      error={refused ? NOT_SAVED : undefined}
      value={entry}
      onChange={type}
      onBlur={() => {
        leave();
        const next = entry === "" ? null : Number(entry);
        if (next !== value) keep(onSave(next));
      }}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

/** Several short texts, one a line. */
export function SavedLines({
  label,
  lines,
  placeholder,
  onSave,
}: {
  label: string;
  lines: string[];
  placeholder?: string;
  onSave: (lines: string[]) => unknown;
}) {
  return (
    <SavedTextarea
      label={label}
      placeholder={placeholder}
      value={lines.join("\n")}
      onSave={(text) =>
        onSave(
          text
            .split("\n")
            .map((line) => line.trim())
            .filter(Boolean),
        )
      }
    />
  );
}
