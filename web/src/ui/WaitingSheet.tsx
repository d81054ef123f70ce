import { Trouble } from "./Trouble";

/** The sheet while what it shows is on its way, or could not be had. */
export function WaitingSheet({ error }: { error: unknown }) {
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet" aria-busy={!error}>
        <Trouble error={error} />
      </main>
    </div>
  );
}
