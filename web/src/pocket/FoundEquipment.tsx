import { TextInput } from "@mantine/core";
import { useRef, useState } from "react";
import { v4 as newId } from "uuid";
import type { BesideProps } from "./beside-props";
import { readyPhoto, standInPhoto } from "./devices";
import { now } from "./outbox";

/** Equipment on site that the register lacks, with its plate. */
export function FoundEquipment({ page, record, keepPicture, standIns, onDone }: BesideProps) {
  const [name, setName] = useState("");
  const [model, setModel] = useState("");
  const [serial, setSerial] = useState("");
  const [picture, setPicture] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);

  async function take(photo: Promise<Blob>) {
    setPicture(await keepPicture(await photo, "plate.jpg"));
  }

  return (
    <>
      {Object.entries(page.job.beside.equipment).map(([id, found]) => (
        <p key={id}>
          {found.name}
          {found.serial && `, serial ${found.serial}`}
          {found.settled
            ? `: ${found.settled.target || found.settled.reason}`
            : ": the office will enter it."}
        </p>
      ))}
      <TextInput label="What it is" size="md" value={name} onChange={(e) => setName(e.currentTarget.value)} />
      <TextInput label="Model" size="md" value={model} onChange={(e) => setModel(e.currentTarget.value)} />
      <TextInput
        label="Serial number"
        size="md"
        value={serial}
        onChange={(e) => setSerial(e.currentTarget.value)}
      />
      <input
        ref={file}
        type="file"
        accept="image/jpeg,image/png,image/webp"
        capture="environment"
        hidden
        aria-label="Photo of the plate"
        onChange={(e) => {
          const chosen = e.currentTarget.files?.[0];
          e.currentTarget.value = "";
          if (chosen) void take(readyPhoto(chosen));
        }}
      />
      <button
        type="button"
        className="pocket-other"
        onClick={() =>
          standIns ? void take(standInPhoto(`Plate of ${name || "equipment"}`)) : file.current?.click()
        }
      >
        {picture ? "✓ Plate taken. Take it again" : "Take a picture of the plate"}
      </button>
      <button
        type="button"
        className="pocket-other"
        disabled={!name.trim()}
        onClick={async () => {
          const event = {
            kind: "equipment found",
            at: now(),
            record: newId(),
            name: name.trim(),
            model: model.trim(),
            serial: serial.trim(),
            picture,
          } as const;
          if (await record(event)) onDone();
        }}
      >
        Tell the office
      </button>
    </>
  );
}
