import { Button, Drawer, Select, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { client, need } from "../api/client";
import { guidanceChanged, useCache, useCatalogue } from "../api/queries";
import { Trouble } from "../ui/Trouble";

export type NewKind = "incident type" | "form" | "standard step";

const ABOUT: Record<NewKind, string> = {
  "incident type": "What the caller says is wrong, or what the visit is for",
  form: "What is inspected or recorded with it",
  "standard step": "What is to be done, verb first, wherever it is reused",
};

/** Begin a document: a title, and for an incident type the equipment it is for. */
export function NewDocument({
  kind,
  onClose,
  onMade,
}: {
  kind: NewKind | null;
  onClose: () => void;
  onMade: (kind: NewKind, id: string) => void;
}) {
  const [title, setTitle] = useState("");
  const [equipment, setEquipment] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  const catalogue = useCatalogue();
  const cache = useCache();

  async function begin(event: FormEvent) {
    event.preventDefault();
    if (kind === null) return;
    try {
      const made = await need(
        kind === "incident type"
          ? client.POST("/api/v1/incident-types", { body: { title, equipment } })
          : client.POST("/api/v1/documents", { body: { kind, title } }),
      );
      guidanceChanged(cache);
      setTitle("");
      setEquipment(null);
      setError(null);
      onClose();
      onMade(kind, made.id);
    } catch (refusal) {
      setError(refusal);
    }
  }

  return (
    <Drawer opened={kind !== null} onClose={onClose} title={`New ${kind ?? ""}`} position="left" size="sm">
      <form onSubmit={begin}>
        <TextInput
          label="Title"
          description={kind ? ABOUT[kind] : ""}
          data-autofocus
          required
          value={title}
          onChange={(e) => setTitle(e.currentTarget.value)}
        />
        {kind === "incident type" && (
          <Select
            label="Equipment"
            mt="sm"
            searchable
            clearable
            placeholder="Any equipment"
            data={(catalogue.data?.equipment ?? []).map((c) => ({ value: c.code, label: c.name }))}
            value={equipment}
            onChange={setEquipment}
          />
        )}
        <Trouble error={error} />
        <Button type="submit" mt="md" disabled={!title.trim()}>
          Begin
        </Button>
      </form>
    </Drawer>
  );
}
