import { PasswordInput } from "@mantine/core";

/** A password to be chosen: typed twice, so that what one means is what is kept. */
export function NewPassword({
  label,
  word,
  again,
  onWord,
  onAgain,
}: {
  label: string;
  word: string;
  again: string;
  onWord: (word: string) => void;
  onAgain: (word: string) => void;
}) {
  return (
    <>
      <p className="soft" style={{ margin: "8px 0 2px" }}>
        At least 10 characters; several words that do not belong together are easy to keep in mind.
      </p>
      <PasswordInput
        label={label}
        size="xs"
        autoComplete="new-password"
        value={word}
        onChange={(e) => onWord(e.currentTarget.value)}
      />
      <PasswordInput
        label="The same again"
        size="xs"
        autoComplete="new-password"
        value={again}
        error={again && again !== word ? "The two are not the same." : undefined}
        onChange={(e) => onAgain(e.currentTarget.value)}
      />
    </>
  );
}
