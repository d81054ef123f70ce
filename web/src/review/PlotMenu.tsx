import { Select } from "@mantine/core";

/** A small menu above a plot. */
export function PlotMenu({
  label,
  value,
  data,
  onChange,
}: {
  label: string;
  value: string | null;
  data: { value: string; label: string }[];
  onChange: (value: string | null) => void;
}) {
  return (
    <Select
      aria-label={label}
      placeholder={label}
      w={190}
      clearable
      searchable
      data={data}
      value={value}
      onChange={onChange}
    />
  );
}
