import { Button, Drawer, Select, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { client, need } from "../api/client";
import { guidanceChanged, useCache, useCatalogue } from "../api/queries";
import { Trouble } from "../ui/Trouble";

/** Begin an incident type: a title and the equipment it is for. */
export function NewIncidentType({
  shown,
  onClose,
  onMade,
}: {
  shown: boolean;
  onClose: () => void;
  onMade: (id: string) => void;
}) {
  const [title, setTitle] = useState("");
  const [equipment, setEquipment] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  const catalogue = useCatalogue();
  const cache = useCache();

  async function begin(event: FormEvent) {
    event.preventDefault();
    try {
      const made = await need(client.POST("/api/incident-types", { body: { title, equipment } }));
      guidanceChanged(cache);
      setTitle("");
      setEquipment(null);
      setError(null);
      onClose();
      onMade(made.id);
    } catch (refusal) {
      setError(refusal);
    }
  }

  return (
    <Drawer opened={shown} onClose={onClose} title="New incident type" position="left" size="sm">
      <form onSubmit={begin}>
        <TextInput
          label="Title"
          description="What the caller says is wrong, or what the visit is for"
          data-autofocus
          required
          value={title}
          onChange={(e) => setTitle(e.currentTarget.value)}
        />
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
        <Trouble error={error} />
        <Button type="submit" mt="md" disabled={!title.trim()}>
          Begin
        </Button>
      </form>
    </Drawer>
  );
}
