import { Button, Checkbox, MultiSelect, NumberInput, Select, TagsInput, TextInput } from "@mantine/core";
import { useChoices } from "../api/queries";
import type { Choices, ListField } from "./list-columns";
import { choices, type Entry } from "./list-words";

/** An entry of a list being written, across the whole row. */
export function EntryForm({
  fields,
  entry,
  catalogue,
  wrong,
  onChange,
  onSave,
  onCancel,
  onRemove,
}: {
  fields: ListField[];
  entry: Entry;
  catalogue: Choices;
  wrong: Record<string, string>;
  onChange: (entry: Entry) => void;
  onSave: () => void;
  onCancel: () => void;
  onRemove?: () => void;
}) {
  return (
    <tr
      onKeyDown={(e) => {
        if (e.key === "Escape") onCancel();
      }}
    >
      <td colSpan={fields.length + 2}>
        <form
          className="entry"
          onSubmit={(e) => {
            e.preventDefault();
            onSave();
          }}
        >
          {fields.map((f, i) => (
            <Field
              key={f.key}
              field={f}
              value={entry[f.key]}
              catalogue={catalogue}
              error={wrong[f.key]}
              autoFocus={i === 0}
              onChange={(value) => onChange({ ...entry, [f.key]: value })}
            />
          ))}
          <div className="actions">
            <Button size="compact-sm" type="submit">
              Save
            </Button>
            <Button size="compact-sm" variant="default" onClick={onCancel}>
              Leave it
            </Button>
            {onRemove && (
              <Button size="compact-sm" variant="subtle" color="bad" onClick={onRemove}>
                Remove
              </Button>
            )}
          </div>
        </form>
      </td>
    </tr>
  );
}

function Field({
  field,
  value,
  catalogue,
  error,
  autoFocus,
  onChange,
}: {
  field: ListField;
  value: unknown;
  catalogue: Choices;
  error?: string;
  autoFocus: boolean;
  onChange: (value: unknown) => void;
}) {
  const words = useChoices().data;
  const common = { label: field.label, error, w: field.width ?? 190 };
  const codes = field.of ? choices(field.of, catalogue) : [];
  if (field.as === "yes")
    return (
      <Checkbox
        label={field.label}
        checked={Boolean(value)}
        onChange={(e) => onChange(e.currentTarget.checked)}
      />
    );
  if (field.as === "number")
    return (
      <NumberInput
        {...common}
        value={(value as number | undefined) ?? ""}
        onChange={(n) => onChange(n === "" ? 0 : Number(n))}
      />
    );
  if (field.as === "recorded")
    return (
      <Recorded
        value={(value as Record<string, Recordable> | undefined) ?? {}}
        fields={catalogue.fields}
        error={error}
        onChange={onChange}
      />
    );
  if (field.as === "level")
    return (
      <Select
        {...common}
        data={words?.levels ?? []}
        value={(value as string) ?? null}
        onChange={(v) => onChange(v ?? words?.usual_level ?? "")}
      />
    );
  if (field.as === "day")
    return (
      <TextInput
        {...common}
        type="date"
        value={(value as string | null) ?? ""}
        onChange={(e) => onChange(e.currentTarget.value || null)}
      />
    );
  if (field.as === "many" && field.of)
    return (
      <MultiSelect
        {...common}
        searchable
        data={codes}
        value={(value as string[]) ?? []}
        onChange={onChange}
      />
    );
  if (field.as === "many")
    return <TagsInput {...common} value={(value as string[]) ?? []} onChange={onChange} />;
  if (field.of)
    return (
      <Select
        {...common}
        searchable
        clearable
        data={codes}
        value={(value as string | null) ?? null}
        onChange={onChange}
      />
    );
  return (
    <TextInput
      {...common}
      autoFocus={autoFocus}
      value={(value as string | undefined) ?? ""}
      onChange={(e) => onChange(e.currentTarget.value)}
    />
  );
}

type Recordable = string | number;

/** What is recorded of an asset: a value for each of the asset fields, or none. */
function Recorded({
  value,
  fields,
  error,
  onChange,
}: {
  value: Record<string, Recordable>;
  fields: Choices["fields"];
  error?: string;
  onChange: (value: Record<string, Recordable>) => void;
}) {
  function put(code: string, to: Recordable) {
    const { [code]: _, ...others } = value;
    onChange(to === "" ? others : { ...others, [code]: to });
  }
  return (
    <fieldset className="recorded">
      <legend>Recorded of it, where it has such a thing</legend>
      {fields.map((f) => {
        const common = { label: f.unit ? `${f.name}, ${f.unit}` : f.name, w: 190 };
        return f.number ? (
          <NumberInput
            key={f.code}
            {...common}
            value={value[f.code] ?? ""}
            onChange={(to) => put(f.code, to === "" ? "" : Number(to))}
          />
        ) : (
          <TextInput
            key={f.code}
            {...common}
            value={value[f.code] ?? ""}
            onChange={(e) => put(f.code, e.currentTarget.value)}
          />
        );
      })}
      {error && <p className="bad-words">{error}</p>}
    </fieldset>
  );
}
