import { Button, Select } from "@mantine/core";
import { useFacts } from "../api/queries";
import type { Repeat } from "../api/types";
import { SavedText } from "../draft/saved-fields";

/** Once per pump, phase or door: over names, a field of the asset, or what is found on site. */
export function RepeatField({
  repeat,
  onChange,
}: {
  repeat: Repeat | null;
  onChange: (rework: (now: Repeat | null) => Repeat | null) => void;
}) {
  const facts = useFacts().data ?? [];
  const set = (part: Partial<Repeat>) => onChange((now) => now && { ...now, ...part });
  if (repeat === null)
    return (
      <Button
        variant="subtle"
        color="slate"
        onClick={() => onChange(() => ({ per: "", over: "named", names: [], field: "" }))}
      >
        Repeat it
      </Button>
    );
  return (
    <div className="details-row">
      <SavedText
        shown
        label="Each"
        width={110}
        placeholder="pump"
        value={repeat.per}
        onSave={(per) => set({ per })}
      />
      <Select
        label="Which there are"
        w={170}
        allowDeselect={false}
        data={[
          { value: "named", label: "named here" },
          { value: "asset field", label: "by an asset field" },
          { value: "on site", label: "found on site" },
        ]}
        value={repeat.over}
        onChange={(over) => set({ over: over as Repeat["over"] })}
      />
      {repeat.over === "named" && (
        <SavedText
          shown
          label="Names, with commas between"
          width={230}
          value={repeat.names.join(", ")}
          onSave={(text) =>
            set({
              names: text
                .split(",")
                .map((n) => n.trim())
                .filter(Boolean),
            })
          }
        />
      )}
      {repeat.over === "asset field" && (
        <Select
          label="Field"
          w={210}
          searchable
          data={facts
            .filter((f) => f.name.startsWith("asset.") && f.writable)
            .map((f) => ({ value: f.name, label: f.label }))}
          value={repeat.field || null}
          onChange={(field) => set({ field: field ?? "" })}
        />
      )}
      <Button variant="subtle" color="slate" onClick={() => onChange(() => null)}>
        Once only
      </Button>
    </div>
  );
}
