/** What went wrong, what is safe, what to do: as the server says it. */
export function Trouble({ error }: { error: unknown }) {
  if (!error) return null;
  return (
    <p role="alert" className="note bad">
      {error instanceof Error ? error.message : "Something went wrong. Reload the page."}
    </p>
  );
}
