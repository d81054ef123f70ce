import { Textarea, TextInput } from "@mantine/core";
import { useState } from "react";
import { MarkOnScale } from "../ui/MarkOnScale";
import { SignaturePad } from "../ui/SignaturePad";
import type { BesideProps } from "./beside-props";
import { Costs } from "./Costs";
import type { CarriedOrder } from "./carried-order";
import { FoundEquipment } from "./FoundEquipment";
import { FurtherWork } from "./FurtherWork";
import { MissingStep } from "./MissingStep";
import { now } from "./outbox";
import { PartByWords } from "./PartByWords";
import { PartSupplies } from "./PartSupplies";
import { VisitTimes } from "./VisitTimes";

const PANELS = {
  part: { label: "A part that is not in the list", Panel: PartByWords },
  supply: { label: "Parts sent ahead, or from a colleague", Panel: PartSupplies },
  cost: { label: "Other costs", Panel: Costs },
  step: { label: "Something done that no step asks for", Panel: MissingStep },
  work: { label: "Further work to recommend", Panel: FurtherWork },
  equipment: { label: "Equipment the register lacks", Panel: FoundEquipment },
  sign: { label: "Signatures", Panel: Signatures },
  customer: { label: "What the customer says", Panel: Customer },
  times: { label: "Times and breaks", Panel: VisitTimes },
} as const;
type PanelName = keyof typeof PANELS;

/** What is recorded beside the steps: each kind behind a button of its own. */
export function BesideSteps(props: Omit<BesideProps, "onDone">) {
  const [open, setOpen] = useState<PanelName | null>(null);
  const counts = howMany(props.page);
  return (
    <section aria-label="Beside the steps">
      <h2>Beside the steps</h2>
      <ul className="beside">
        {(Object.keys(PANELS) as PanelName[]).map((name) => {
          const { label, Panel } = PANELS[name];
          const isOpen = open === name;
          return (
            <li key={name}>
              <button
                type="button"
                className="beside-open"
                aria-expanded={isOpen}
                onClick={() => setOpen(isOpen ? null : name)}
              >
                {label}
                {counts[name] > 0 && <span className="mono">{counts[name]}</span>}
              </button>
              {isOpen && (
                <div className="beside-panel">
                  {/* It may be answered once another one is open, with words in it. */}
                  <Panel {...props} onDone={() => setOpen((now) => (now === name ? null : now))} />
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function howMany({ job }: CarriedOrder): Record<PanelName, number> {
  const { beside } = job;
  return {
    part: Object.keys(beside.parts).length,
    supply: Object.keys(job.supplies).length,
    cost: Object.keys(job.costs).length,
    step: Object.keys(beside.steps).length,
    work: Object.keys(beside.work).length,
    equipment: Object.keys(beside.equipment).length,
    sign: beside.signed.length,
    customer: beside.customer ? 1 : 0,
    times: job.visits.reduce((n, visit) => n + visit.breaks.length + visit.corrections.length, 0),
  };
}

function Signatures({ page, record, keepPicture }: BesideProps) {
  const [name, setName] = useState("");
  const [role, setRole] = useState("");
  const [n, setN] = useState(0);
  async function sign(drawing: Blob) {
    const picture = await keepPicture(drawing, "signature.png");
    if (!picture) return;
    if (await record({ kind: "signed off", at: now(), picture, name: name.trim(), role: role.trim() })) {
      setName("");
      setRole("");
      setN(n + 1);
    }
  }
  return (
    <>
      {page.job.beside.signed.map((signed) => (
        <p key={signed.picture}>
          Signed by {signed.name}, {signed.role}.
        </p>
      ))}
      <TextInput label="Name" size="md" value={name} onChange={(e) => setName(e.currentTarget.value)} />
      <TextInput
        label="What they are"
        placeholder="Keeper, shift lead"
        size="md"
        value={role}
        onChange={(e) => setRole(e.currentTarget.value)}
      />
      {name.trim() && role.trim() ? (
        <SignaturePad key={n} label={name} signed={null} onSign={sign} />
      ) : (
        <p className="soft">With a name, and what they are, they can sign.</p>
      )}
    </>
  );
}

function Customer({ page, record, onDone }: BesideProps) {
  const held = page.job.beside.customer;
  const [comment, setComment] = useState(held?.comment ?? "");
  const [rating, setRating] = useState<number | null>(held?.rating ?? null);
  return (
    <>
      <Textarea
        label="In their words"
        size="md"
        autosize
        minRows={2}
        value={comment}
        onChange={(e) => setComment(e.currentTarget.value)}
      />
      <MarkOnScale
        label="How they rate the work"
        low="poor"
        high="very good"
        value={rating}
        onChange={setRating}
      />
      <button
        type="button"
        className="pocket-other"
        disabled={!comment.trim() && rating === null}
        onClick={async () => {
          if (await record({ kind: "customer said", at: now(), comment: comment.trim(), rating })) onDone();
        }}
      >
        Keep it
      </button>
    </>
  );
}
