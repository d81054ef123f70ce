import { useId } from "react";

/** A mark from 1 to 5, said in figures with its ends in words. */
export function MarkOnScale({
  label,
  low,
  high,
  value,
  onChange,
}: {
  label: string;
  low: string;
  high: string;
  value: number | null;
  onChange: (value: number | null) => void;
}) {
  const id = useId();
  return (
    <fieldset className="mark-on-scale" aria-labelledby={id}>
      <legend id={id}>
        {label}, from 1 ({low}) to 5 ({high})
      </legend>
      {[1, 2, 3, 4, 5].map((n) => (
        <button
          key={n}
          type="button"
          className="pchoice"
          aria-pressed={value === n}
          onClick={() => onChange(value === n ? null : n)}
        >
          {n}
        </button>
      ))}
    </fieldset>
  );
}
