import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { ActionIcon, Button, Select, TextInput } from "@mantine/core";
import { IconGripVertical, IconX } from "@tabler/icons-react";
import { useState } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { keys, type OrdersWanted, useCardPreview, useOrderCard, useOrders } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { CardField, CardSettings, OrderCard, OrderLine, Person } from "../api/types";
import { useChange } from "../api/use-change";
import { OrderCardHead, OrderCardInList } from "../ui/OrderCard";
import { Trouble } from "../ui/Trouble";
import { WaitingSheet } from "../ui/WaitingSheet";
import "../ui/pocket-step.css";
import "../pocket/pocket.css";
import "./order-card-page.css";

/** What Pocket shows of an order first: which facts, in what order, under which words; tried on a real order. */
export function OrderCardPage({ person }: { person: Person }) {
  const held = useOrderCard();
  if (!held.data) return <WaitingSheet error={held.error} />;
  return <Editor settings={held.data} mayChange={mayWrite(person)} />;
}

const OPEN: OrdersWanted = { states: ["Planned", "Heading out", "On site", "Return needed"] };
const PLACES = [
  {
    key: "first",
    title: "In the list of orders",
    most: "most_first",
    empty: "Only symptom, asset, site and time.",
  },
  { key: "further", title: "On the order's page", most: "most_further", empty: "Nothing but the heading." },
] as const;

function Editor({ settings, mayChange }: { settings: CardSettings; mayChange: boolean }) {
  const [card, setCard] = useState<OrderCard>(settings.card);
  const [chosen, setChosen] = useState<string | null>(null);
  const rows = useOrders(OPEN).data?.pages.flatMap((page) => page.rows) ?? [];
  const order = rows.find((row) => row.id === chosen) ?? rows[0];
  const save = useChange(
    (body: OrderCard) =>
      need(
        client.PUT("/api/v1/settings/order-card", {
          params: { header: { "if-match": settings.etag } },
          body,
        }),
      ),
    [keys.orderCard],
  );
  const isChanged = JSON.stringify(card) !== JSON.stringify(settings.card);
  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="head">
            <div>
              <div className="soft">
                <Link to="/run">Orders</Link>
              </div>
              <h1>What the order's card shows</h1>
            </div>
            {mayChange && (
              <div className="actions">
                <Button variant="default" disabled={!isChanged} onClick={() => setCard(settings.card)}>
                  As it was
                </Button>
                <Button disabled={!isChanged} loading={save.isPending} onClick={() => save.mutate(card)}>
                  Set the card
                </Button>
              </div>
            )}
          </div>
          <p className="soft">
            Symptom, asset, site, state and time always stand there. What is not known of an order is left
            out. Phones have it with the next connection.
          </p>
          <Trouble error={save.error} />
          {!mayChange && <p className="soft">Engineers and approvers set the card.</p>}
          {PLACES.map(({ key, title, most, empty }) => (
            <Fields
              key={key}
              title={title}
              empty={empty}
              most={settings[most]}
              settings={settings}
              fields={card[key]}
              mayChange={mayChange}
              onChange={(fields) => setCard({ ...card, [key]: fields })}
            />
          ))}
        </div>
      </main>
      <aside className="margin" aria-label="How it looks on the phone">
        <h2>On the phone</h2>
        <Select
          label="Tried on"
          searchable
          data={rows.map((row) => ({ value: row.id, label: `${row.id}, ${row.asset.name}` }))}
          value={order?.id ?? null}
          onChange={setChosen}
          nothingFoundMessage="No open order of that name"
        />
        {order ? (
          <Preview card={card} order={order} />
        ) : (
          <p className="soft">There is no open order to try it on.</p>
        )}
      </aside>
    </div>
  );
}

function Preview({ card, order }: { card: OrderCard; order: OrderLine }) {
  const shown = useCardPreview(card, order.id);
  return (
    <>
      <Trouble error={shown.error} />
      <h3 className="card-place">In the list</h3>
      <div className="pocket card-preview">
        <ul className="pocket-orders">
          <li>
            <div className="card-in-list">
              <OrderCardInList
                order={order}
                state={order.state}
                where="on this phone"
                lines={shown.data?.first ?? []}
              />
            </div>
          </li>
        </ul>
      </div>
      <h3 className="card-place">On the order's page</h3>
      <div className="pocket card-preview">
        <div className="pocket-body">
          <OrderCardHead order={order} state={order.state} lines={shown.data?.further ?? []} />
        </div>
      </div>
    </>
  );
}

function Fields({
  title,
  empty,
  most,
  settings,
  fields,
  mayChange,
  onChange,
}: {
  title: string;
  empty: string;
  most: number;
  settings: CardSettings;
  fields: CardField[];
  mayChange: boolean;
  onChange: (fields: CardField[]) => void;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const names = new Map(settings.facts.map((fact) => [fact.name, fact.label]));
  const free = settings.facts.filter((fact) => !fields.some((field) => field.fact === fact.name));
  const set = (fact: string, label: string) =>
    onChange(fields.map((field) => (field.fact === fact ? { fact, label } : field)));
  function dropped({ active, over }: DragEndEvent) {
    const from = fields.findIndex((field) => field.fact === active.id);
    const to = fields.findIndex((field) => field.fact === over?.id);
    if (from >= 0 && to >= 0) onChange(arrayMove(fields, from, to));
  }
  return (
    <section aria-label={title} className="card-fields">
      <h2>
        {title}
        <span className="soft">
          {" "}
          {fields.length} of {most} at most
        </span>
      </h2>
      {fields.length === 0 && <p className="soft">{empty}</p>}
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext items={fields.map((field) => field.fact)} strategy={verticalListSortingStrategy}>
          {fields.map((field) => (
            <FieldRow
              key={field.fact}
              field={field}
              own={names.get(field.fact)}
              longest={settings.most_label}
              mayChange={mayChange}
              onLabel={(label) => set(field.fact, label)}
              onRemove={() => onChange(fields.filter((other) => other !== field))}
            />
          ))}
        </SortableContext>
      </DndContext>
      {mayChange && (
        <Select
          aria-label={`Add a field: ${title}`}
          placeholder={fields.length < most ? "Add a field" : "No more fits"}
          disabled={fields.length >= most}
          searchable
          w={260}
          data={free.map((fact) => ({ value: fact.name, label: fact.label }))}
          value={null}
          onChange={(fact) => fact && onChange([...fields, { fact, label: "" }])}
        />
      )}
    </section>
  );
}

function FieldRow({
  field,
  own,
  longest,
  mayChange,
  onLabel,
  onRemove,
}: {
  field: CardField;
  /** What the fact is called by itself; nothing where it is no longer known. */
  own: string | undefined;
  longest: number;
  mayChange: boolean;
  onLabel: (label: string) => void;
  onRemove: () => void;
}) {
  const drag = useSortable({ id: field.fact, disabled: !mayChange });
  const name = own ?? field.fact;
  return (
    <div
      ref={drag.setNodeRef}
      className="card-field"
      style={{ transform: CSS.Translate.toString(drag.transform), transition: drag.transition }}
    >
      {mayChange && (
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label={`Move ${name}`}
          {...drag.attributes}
          {...drag.listeners}
        >
          <IconGripVertical size={16} />
        </ActionIcon>
      )}
      <span>{own ?? `${field.fact}, no longer known`}</span>
      <TextInput
        aria-label={`Label of ${name}`}
        placeholder={own}
        maxLength={longest}
        disabled={!mayChange}
        value={field.label}
        onChange={(e) => onLabel(e.currentTarget.value)}
      />
      {mayChange && (
        <ActionIcon variant="subtle" color="gray" aria-label={`Take away ${name}`} onClick={onRemove}>
          <IconX size={16} />
        </ActionIcon>
      )}
    </div>
  );
}
