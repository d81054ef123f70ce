import { Button, FileButton } from "@mantine/core";
import { IconDownload, IconUpload } from "@tabler/icons-react";
import { useState } from "react";
import { client, need, Refused } from "../api/client";
import type { ListPage, SheetOutcome } from "../api/types";

interface Loaded {
  file: string;
  text: string;
  outcome?: SheetOutcome;
  error?: unknown;
}

/** A list out to a spreadsheet and back: what a sheet would change is told before it is written. */
export function ListSheet({
  page,
  writes,
  onWritten,
  onStale,
}: {
  page: ListPage;
  writes: boolean;
  onWritten: (page: ListPage) => void;
  /** Somebody changed the list meanwhile: it is to be read again. */
  onStale: () => void;
}) {
  const [loaded, setLoaded] = useState<Loaded | null>(null);

  const send = (text: string, onlyTell: boolean) =>
    need(
      client.POST("/api/v1/lists/{name}/sheet", {
        params: { path: { name: page.name }, header: { "if-match": page.etag } },
        body: { text, only_tell: onlyTell },
      }),
    );

  async function look(file: File | null) {
    if (!file) return;
    const text = await file.text();
    try {
      setLoaded({ file: file.name, text, outcome: await send(text, true) });
    } catch (error) {
      setLoaded({ file: file.name, text, error });
      if (error instanceof Refused && error.status === 412) onStale();
    }
  }

  async function write() {
    if (!loaded) return;
    try {
      const done = await send(loaded.text, false);
      setLoaded(null);
      onWritten(done.page);
    } catch (error) {
      setLoaded({ ...loaded, outcome: undefined, error });
      if (error instanceof Refused && error.status === 412) onStale();
    }
  }

  return (
    <>
      <div className="actions list-sheet">
        <Button
          component="a"
          href={`/api/v1/lists/${page.name}/sheet.csv`}
          variant="subtle"
          color="slate"
          leftSection={<IconDownload size={15} />}
        >
          Save as CSV
        </Button>
        {writes && (
          <FileButton accept=".csv,.tsv,.txt,text/csv" onChange={look} key={loaded?.file}>
            {(props) => (
              <Button variant="subtle" color="slate" leftSection={<IconUpload size={15} />} {...props}>
                Load a CSV
              </Button>
            )}
          </FileButton>
        )}
      </div>
      {loaded && (
        <section className={`list-loaded note${loaded.error ? " bad" : ""}`} aria-label="The sheet loaded">
          {loaded.error ? (
            <WhatIsWrong file={loaded.file} error={loaded.error} />
          ) : (
            loaded.outcome && <WhatItBrings file={loaded.file} outcome={loaded.outcome} />
          )}
          <div className="actions under">
            {loaded.outcome && loaded.outcome.added.length + loaded.outcome.changed.length > 0 && (
              <Button onClick={write}>Write it</Button>
            )}
            <Button variant="default" onClick={() => setLoaded(null)}>
              Drop it
            </Button>
          </div>
        </section>
      )}
    </>
  );
}

function WhatItBrings({ file, outcome }: { file: string; outcome: SheetOutcome }) {
  const some = (codes: string[]) =>
    codes.length > 6 ? `${codes.slice(0, 6).join(", ")} and ${codes.length - 6} more` : codes.join(", ");
  return (
    <>
      <p className="flush">
        {file}: {outcome.added.length} new, {outcome.changed.length} changed, {outcome.same.length} the same.
        Nothing is removed.
      </p>
      {outcome.added.length > 0 && (
        <p className="soft">
          New: <span className="mono">{some(outcome.added)}</span>
        </p>
      )}
      {outcome.changed.length > 0 && (
        <p className="soft">
          Changed: <span className="mono">{some(outcome.changed)}</span>
        </p>
      )}
    </>
  );
}

function WhatIsWrong({ file, error }: { file: string; error: unknown }) {
  const words = error instanceof Error ? error.message : "something went wrong.";
  const problems =
    error instanceof Refused ? error.problem.problems.filter((p) => !words.includes(p.message)) : [];
  return (
    <>
      <p className="flush" role="alert">
        {file} cannot be taken, and the list is as it was: {words}
      </p>
      <ul className="plain-list">
        {problems.slice(0, 12).map((p) => (
          <li key={`${p.path}${p.message}`}>
            {p.message} {p.hint}
          </li>
        ))}
      </ul>
      {problems.length > 12 && <p className="soft">and {problems.length - 12} more.</p>}
    </>
  );
}
