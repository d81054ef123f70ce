import { Textarea } from "@mantine/core";
import { useEffect, useRef, useState } from "react";

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
  onSave: (value: string) => void;
  startOpen?: boolean;
  onDone?: () => void;
  className?: string;
}) {
  const [open, setOpen] = useState(startOpen);
  const [text, setText] = useState(value);
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => {
    if (!open) setText(value);
  }, [value, open]);
  useEffect(() => {
    if (startOpen && editable) setOpen(true);
  }, [startOpen, editable]);
  useEffect(() => {
    if (open) field.current?.focus();
  }, [open]);

  function close(save: boolean) {
    setOpen(false);
    if (save && text.trim() !== value) onSave(text.trim());
    if (!save) setText(value);
    onDone?.();
  }

  if (!editable || !open) {
    if (!editable) return <span className={className}>{value}</span>;
    return (
      <button
        type="button"
        className={`in-place ${className ?? ""}`}
        aria-label={`${label}: ${value || "empty"}. Edit`}
        onClick={(e) => {
          e.stopPropagation();
          setOpen(true);
        }}
      >
        {value || <span className="soft">{placeholder}</span>}
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
