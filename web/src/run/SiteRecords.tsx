import { Button, Checkbox, Popover, Select, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useState } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { keys, useCatalogue, useSiteRecords } from "../api/queries";
import type { SiteRecordLine } from "../api/types";
import { useChange } from "../api/use-change";
import { count, dayTime, number } from "../ui/format";
import { MarkedPicture } from "../ui/MarkedPicture";
import { Trouble } from "../ui/Trouble";
import { SetAside } from "./SetAside";
import "./site-records.css";

const CHANGED = [keys.siteRecords, keys.orders, keys.waiting, ["order"], ["evidence"], ["list"]];

interface Settling {
  decision: "matched" | "entered" | "ordered" | "set aside";
  target?: string;
  reason?: string;
  remember?: boolean;
  entry?: Record<string, string>;
}
type Settle = (settling: Settling) => void;

/** What the field recorded beside the steps: a part to be named, equipment to be entered, work to be ordered. */
export function SiteRecords({ order }: { order?: string }) {
  const found = useSiteRecords(order);
  const lines = found.data ?? [];
  if (lines.length === 0) return <Trouble error={found.error} />;
  return (
    <section aria-label="Recorded beside the steps" className="note">
      <details open={Boolean(order)}>
        <summary>{count(lines.length, "site record")} to settle</summary>
        {lines.map((line) => (
          <OneRecord key={`${line.order} ${line.record}`} line={line} isNamed={!order} />
        ))}
      </details>
    </section>
  );
}

function OneRecord({ line, isNamed }: { line: SiteRecordLine; isNamed: boolean }) {
  const settle = useChange(
    (body: Settling) =>
      need(
        client.POST("/api/v1/orders/{order_id}/site-records/{record}/settling", {
          params: { path: { order_id: line.order, record: line.record } },
          body: { target: "", reason: "", remember: true, ...body },
        }),
      ),
    CHANGED,
  );
  const Kind = { "part typed": TypedPart, "equipment found": Found, "work recommended": Work }[
    line.kind as "part typed"
  ];
  return (
    <div className="site-record">
      <div className="soft">
        {isNamed && (
          <>
            <Link to={`/run/${line.order}`}>{line.order}</Link>,{" "}
          </>
        )}
        {line.asset}, {line.technician}, {dayTime(line.at)}
      </div>
      <Kind
        line={line}
        settle={(settling) => settle.mutate(settling, { onSuccess: () => tellOfOrder(settling) })}
        busy={settle.isPending}
      />
      <Trouble error={settle.error} />
    </div>
  );
}

/** Told once it is so. */
function tellOfOrder(settling: Settling) {
  if (settling.decision === "ordered")
    notifications.show({ message: "The order is logged. It waits for a technician." });
}

interface KindProps {
  line: SiteRecordLine;
  settle: Settle;
  busy: boolean;
}

function TypedPart({ line, settle, busy }: KindProps) {
  const lists = useCatalogue();
  const [remember, setRemember] = useState(true);
  const match = (part: string | null) => part && settle({ decision: "matched", target: part, remember });
  return (
    <>
      <div>
        Part used and typed: {number(line.typed?.quantity ?? 0)} × <b>“{line.text}”</b>
      </div>
      <div className="site-record-choices">
        {line.parts.map((part) => (
          <Button
            key={part.part}
            size="compact-sm"
            variant="default"
            disabled={busy}
            title={part.why}
            onClick={() => match(part.part)}
          >
            {part.name} <span className="soft">&nbsp;{part.why}</span>
          </Button>
        ))}
        <Select
          aria-label={`Part for ${line.text}`}
          placeholder={line.parts.length > 0 ? "Another part" : "Which part"}
          size="xs"
          searchable
          data={(lists.data?.parts ?? []).map((p) => ({ value: p.code, label: `${p.name}, ${p.code}` }))}
          value={null}
          onChange={match}
        />
        <SetAside onSet={(reason) => settle({ decision: "set aside", reason })} />
      </div>
      <Checkbox
        size="xs"
        label="Remember the spelling: typed so again, it is found at once"
        checked={remember}
        onChange={(e) => setRemember(e.currentTarget.checked)}
      />
    </>
  );
}

function Found({ line, settle, busy }: KindProps) {
  const lists = useCatalogue();
  const held = line.equipment;
  const [code, setCode] = useState("");
  const [equipment, setEquipment] = useState<string | null>(null);
  if (!held) return null;
  return (
    <>
      <div>
        Equipment found: <b>{held.name}</b>
        {held.model && `, ${held.model}`}
        {held.serial && `, serial ${held.serial}`}
      </div>
      {held.picture && (
        <div className="site-record-plate">
          <MarkedPicture
            src={`/api/v1/pictures/${held.picture}`}
            alt={`Plate of ${held.name}, as taken on site`}
            marks={[]}
          />
        </div>
      )}
      <div className="site-record-choices">
        {line.assets.map((asset) => (
          <Button
            key={asset.asset}
            size="compact-sm"
            variant="default"
            disabled={busy}
            onClick={() => settle({ decision: "entered", target: asset.asset })}
          >
            It is {asset.asset}, {asset.name} <span className="soft">&nbsp;{asset.why}</span>
          </Button>
        ))}
        <Popover position="bottom-start" width={320} trapFocus>
          <Popover.Target>
            <Button size="compact-sm" variant="default">
              Enter it in the register
            </Button>
          </Popover.Target>
          <Popover.Dropdown>
            <TextInput label="Code" value={code} onChange={(e) => setCode(e.currentTarget.value)} />
            <Select
              label="Class"
              searchable
              data={(lists.data?.equipment ?? []).map((e) => ({ value: e.code, label: e.name }))}
              value={equipment}
              onChange={setEquipment}
              comboboxProps={{ withinPortal: false }}
            />
            <Button
              mt="xs"
              disabled={!code.trim() || !equipment}
              loading={busy}
              onClick={() =>
                settle({
                  decision: "entered",
                  target: code.trim(),
                  entry: {
                    name: held.name,
                    site: line.site,
                    equipment: equipment ?? "",
                    model: (lists.data?.models ?? []).some((m) => m.code === held.model) ? held.model : "",
                    serial: held.serial,
                  },
                })
              }
            >
              Enter it
            </Button>
          </Popover.Dropdown>
        </Popover>
        <SetAside onSet={(reason) => settle({ decision: "set aside", reason })} />
      </div>
    </>
  );
}

function Work({ line, settle, busy }: KindProps) {
  const lists = useCatalogue();
  const [symptom, setSymptom] = useState<string | null>(line.symptom);
  const { work } = line;
  if (!work) return null;
  const said = work.accepted === true ? "accepted" : work.accepted === false ? "declined" : "not answered";
  return (
    <>
      <div>
        Further work: <b>{work.text}</b>
        {work.price !== null && work.price !== undefined && `, ${number(work.price)}`}. The customer:{" "}
        <b>{said}</b>
      </div>
      <div className="site-record-choices">
        <Select
          aria-label="Symptom of the order"
          size="xs"
          searchable
          data={(lists.data?.symptoms ?? []).map((s) => ({ value: s.code, label: s.label }))}
          value={symptom}
          onChange={setSymptom}
        />
        <Button
          size="compact-sm"
          variant={work.accepted ? "filled" : "default"}
          loading={busy}
          disabled={!symptom}
          onClick={() => settle({ decision: "ordered", target: symptom ?? "" })}
        >
          Log an order for it
        </Button>
        <SetAside onSet={(reason) => settle({ decision: "set aside", reason })} />
      </div>
    </>
  );
}
