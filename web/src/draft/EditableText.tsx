import { Textarea } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import { wasRefused } from "./use-entry";

/** Text that is edited where it stands: Enter or leaving saves, Escape takes it back. */
export function EditableText({
  label,
  value,
  placeholder,
  editable,
  onSave,
  startOpen = false,
  onDone,
  className,
}: {
  label: string;
  value: string;
  placeholder?: string;
  editable: boolean;
  /** Gives once it is saved or refused; until then what was typed stays where it was typed. */
  onSave: (value: string) => unknown;
  startOpen?: boolean;
  onDone?: () => void;
  className?: string;
}) {
  const [open, setOpen] = useState(startOpen);
  const [text, setText] = useState(value);
  const [going, setGoing] = useState(false);
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => {
    if (!open && !going) setText(value);
  }, [value, open, going]);
  useEffect(() => {
    if (startOpen && editable) setOpen(true);
  }, [startOpen, editable]);
  useEffect(() => {
    if (open) field.current?.focus();
  }, [open]);

  function close(save: boolean) {
    setOpen(false);
    if (save && text.trim() !== value) {
      setGoing(true);
      void wasRefused(onSave(text.trim())).then((refused) => {
        setGoing(false);
        if (refused) setOpen(true);
      });
    }
    if (!save) setText(value);
    onDone?.();
  }

  if (!editable || !open) {
    if (!editable) return <span className={className}>{value}</span>;
    return (
      <button
        type="button"
        className={`in-place ${className ?? ""}`}
        data-going={(going && text.trim() !== value) || undefined}
        aria-label={`${label}: ${(going ? text.trim() : value) || placeholder || "empty"}. Edit`}
        onClick={(e) => {
          e.stopPropagation();
          setOpen(true);
        }}
      >
        {(going ? text.trim() : value) || <span className="soft">{placeholder}</span>}
      </button>
    );
  }
  return (
    <Textarea
      ref={field}
      aria-label={label}
      autosize
      minRows={1}
      value={text}
      placeholder={placeholder}
      onChange={(e) => setText(e.currentTarget.value)}
      onClick={(e) => e.stopPropagation()}
      onBlur={() => close(true)}
      onKeyDown={(e) => {
        if (e.key === "Enter" && !e.shiftKey) {
          e.preventDefault();
          close(true);
        }
        if (e.key === "Escape") close(false);
        e.stopPropagation();
      }}
    />
  );
}
