import { Autocomplete } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import type { ColumnView } from "../api/types";

const HINTS: Partial<Record<ColumnView["column"]["kind"], string>> = {
  day: "1 Nov to 28 Feb, or after 1 Nov 2026",
  meter: "above 4000, or 1000 to 4000",
  priority: "Today, or above This week",
  warranty: "yes or no",
};

/** What stands before the name that is being typed: the names chosen so far, and "not". */
const HEAD = /^(.*(?:\bor|,|;|\bnot|\babove|\bbelow|\bto)\s+)?(.*)$/i;

/** One cell being written: type a name, several with “or”, or “not” before them. */
export function CellEditor({
  label,
  kind,
  options,
  text,
  onSave,
  onCancel,
}: {
  label: string;
  kind?: ColumnView["column"]["kind"];
  options: readonly string[];
  text: string;
  /** With the direction to go on in. */
  onSave: (text: string, then: "stay" | "down" | "right" | "left") => void;
  onCancel: () => void;
}) {
  const [value, setValue] = useState(text);
  const [open, setOpen] = useState(true);
  const picked = useRef(0);
  const done = useRef(false);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    field.current?.focus();
    field.current?.setSelectionRange(1000, 1000);
  }, []);
  const head = HEAD.exec(value);
  const before = head?.[1] ?? "";
  const last = (head?.[2] ?? "").toLowerCase();
  const offered = options
    .filter((o) => o.toLowerCase().includes(last))
    .slice(0, 40)
    .map((o) => `${before}${o}`);

  function save(then: "stay" | "down" | "right" | "left") {
    if (done.current) return;
    done.current = true;
    onSave(value, then);
  }

  return (
    <Autocomplete
      ref={field}
      className="cell-edit"
      aria-label={label}
      placeholder={(kind && HINTS[kind]) ?? "any"}
      value={value}
      onChange={setValue}
      data={[...new Set(offered)]}
      filter={({ options: all }) => all}
      dropdownOpened={open && offered.length > 0}
      onOptionSubmit={(chosen) => {
        picked.current = performance.now();
        setValue(chosen);
        setOpen(false);
      }}
      maxDropdownHeight={260}
      comboboxProps={{ width: 280, position: "bottom-start" }}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Escape") {
          done.current = true;
          onCancel();
        } else if (e.key === "Tab") {
          e.preventDefault();
          save(e.shiftKey ? "left" : "right");
        } else if (e.key === "Enter") {
          // The list takes the key first when a name is chosen in it; the next one saves.
          const pressed = e.timeStamp;
          setTimeout(() => picked.current < pressed && save("down"));
        } else {
          setOpen(true);
        }
      }}
      onBlur={() => setTimeout(() => performance.now() - picked.current > 150 && save("stay"), 120)}
    />
  );
}
