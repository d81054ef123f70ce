import { TextInput } from "@mantine/core";
import { type ReactNode, useState } from "react";
import { NavLink } from "react-router";
import "./shelf.css";

export interface ShelfItem {
  id: string;
  title: string;
  group: string;
  to: string;
  figure: string;
  figureTitle?: string;
  mark?: string;
}

/** The list one works from: filtered by typing, grouped, with one telling figure a row. */
export function Shelf({
  label,
  items,
  children,
}: {
  label: string;
  items: ShelfItem[];
  children?: ReactNode;
}) {
  const [filter, setFilter] = useState("");
  const words = filter.toLowerCase().split(/\s+/);
  const shown = items.filter((item) =>
    words.every((w) => `${item.title} ${item.group} ${item.id}`.toLowerCase().includes(w)),
  );
  const groups = [...new Set(shown.map((item) => item.group))];
  return (
    <nav className="shelf" aria-label={label}>
      <div className="shelf-top">
        <TextInput
          placeholder={`Filter ${label.toLowerCase()}`}
          aria-label={`Filter ${label.toLowerCase()}`}
          value={filter}
          onChange={(e) => setFilter(e.currentTarget.value)}
        />
        {children}
      </div>
      {groups.map((group) => (
        <section key={group} aria-label={group}>
          <h3>{group}</h3>
          {shown
            .filter((item) => item.group === group)
            .map((item) => (
              <NavLink key={item.id} to={item.to} title={item.figureTitle}>
                <span>
                  {item.title}
                  {item.mark && <small>{item.mark}</small>}
                </span>
                <span className="mono">{item.figure}</span>
              </NavLink>
            ))}
        </section>
      ))}
      {items.length > 0 && shown.length === 0 && <p className="shelf-none">Nothing has these words.</p>}
    </nav>
  );
}
