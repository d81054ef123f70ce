import { ActionIcon, Menu, Select } from "@mantine/core";
import { IconDots } from "@tabler/icons-react";
import type { ReactNode } from "react";
import type { GuideView } from "../api/types";
import { type GuideChange, moveEntry, type RowKind, removeEntry } from "./guide-patches";
import "./guide.css";

/** Makes a change of the guide; gives once it is saved or refused. */
export type ChangeGuide = (change: GuideChange) => Promise<unknown>;

/** A row that says what the rows under it are. */
export function Heading({ columns, words }: { columns: number; words: string }) {
  return (
    <tr className="guide-heading">
      <th colSpan={columns} scope="rowgroup">
        {words}
      </th>
    </tr>
  );
}

/** What a row is about, with what it is linked to, and behind a button what may be done with it. */
export function RowHead({
  words,
  link,
  kind,
  id,
  view,
  editable,
  change,
  children,
}: {
  words: string;
  link: string | undefined;
  kind: RowKind;
  id: string;
  view: GuideView;
  editable: boolean;
  change: ChangeGuide;
  children: ReactNode;
}) {
  const known = [...view.looks, ...view.steps].some((offered) => offered.link === link);
  return (
    <div className="guide-row-head">
      <span>
        {words}
        <small className="mono soft">
          {link ? (known ? link.split(":")[0] : `${link} is gone`) : "linked to no plan"}
        </small>
      </span>
      {editable && (
        <RowMenu
          label={words}
          onUp={() => change(moveEntry(kind, id, -1))}
          onDown={() => change(moveEntry(kind, id, 1))}
          onRemove={() => change(removeEntry(kind, id))}
        >
          <div className="guide-row-fields">{children}</div>
        </RowMenu>
      )}
    </div>
  );
}

/** What may be done with a row or a column, with fields of its own above it. */
export function RowMenu({
  label,
  sideways = false,
  onUp,
  onDown,
  onRemove,
  children,
}: {
  label: string;
  sideways?: boolean;
  onUp: () => unknown;
  onDown: () => unknown;
  onRemove: () => unknown;
  children?: ReactNode;
}) {
  return (
    <Menu position="bottom-start" width={children ? 320 : 180} closeOnItemClick={false}>
      <Menu.Target>
        <ActionIcon variant="subtle" color="slate" size="sm" aria-label={`Change ${label}`}>
          <IconDots size={15} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        {children}
        <Menu.Item onClick={onUp}>{sideways ? "Move left" : "Move up"}</Menu.Item>
        <Menu.Item onClick={onDown}>{sideways ? "Move right" : "Move down"}</Menu.Item>
        <Menu.Item color="bad" closeMenuOnClick onClick={onRemove}>
          Take it out
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

/** Which question or step of a plan a row is linked to. */
export function LinkField({
  label,
  links,
  value,
  onSet,
}: {
  label: string;
  links: GuideView["looks"];
  value: string;
  onSet: (link: string) => unknown;
}) {
  return (
    <Select
      label={label}
      searchable
      clearable
      placeholder="No plan asks it"
      comboboxProps={{ withinPortal: false }}
      data={links.map((offered) => ({
        value: offered.link,
        label: `${offered.words}, ${offered.link.split(":")[0]}`,
      }))}
      value={value || null}
      onChange={(link) => onSet(link ?? "")}
    />
  );
}
