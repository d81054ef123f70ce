import { Button, TextInput } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { client, need, Refused } from "../api/client";
import { guidanceChanged, useCache, useCatalogue, useList } from "../api/queries";
import type { ListPage, Person } from "../api/types";
import { count } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { EntryForm } from "./EntryForm";
import { ListHistory } from "./ListHistory";
import { ListSheet } from "./ListSheet";
import { type Choices, LISTS, type ListField } from "./list-columns";
import { codeOf, type Entry, textOf } from "./list-words";
import { MatchNav } from "./MatchNav";
import { treeOrder } from "./tree-order";
import "./match.css";

/** The lists that guidance refers to: read, filter, add, change, remove. */
export function ListsPage({ person }: { person: Person }) {
  const { list } = useParams();
  const shown = LISTS.find((l) => l.name === list) ?? LISTS[0];
  const writes = person.role !== "planner";
  if (!shown) return null;
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <MatchNav writes={writes} />
          <h1>Lists</h1>
          <nav className="lists-nav" aria-label="Lists">
            {LISTS.map((l) => (
              <Link
                key={l.name}
                to={`/match/lists/${l.name}`}
                aria-current={l === shown ? "page" : undefined}
              >
                {l.title}
              </Link>
            ))}
          </nav>
          <OneList key={shown.name} shown={shown} writes={writes} />
        </div>
      </main>
    </div>
  );
}

function OneList({ shown, writes }: { shown: (typeof LISTS)[number]; writes: boolean }) {
  const page = useList(shown.name);
  const lists = useCatalogue().data;
  const sites = useList("sites").data;
  const cache = useCache();
  const [words, setWords] = useState("");
  const [open, setOpen] = useState<{ code: string | null; entry: Entry } | null>(null);
  const [error, setError] = useState<unknown>(null);

  function take(after: ListPage) {
    cache.setQueryData(["list", shown.name], after);
    setOpen(null);
    setError(null);
    for (const key of ["catalogue", "assets"]) void cache.invalidateQueries({ queryKey: [key] });
    void cache.invalidateQueries({ queryKey: ["list", shown.name, "changes"] });
    guidanceChanged(cache);
  }

  async function act(going: Promise<ListPage>) {
    try {
      take(await going);
    } catch (refusal) {
      setError(refusal);
      if (refusal instanceof Refused && refusal.status === 412) page.refetch();
    }
  }

  if (!page.data || !lists || !sites) return <Trouble error={page.error} />;
  const catalogue: Choices = { ...lists, sites: sites.entries as Choices["sites"] };
  const { entries, etag, used } = page.data;
  const at = { path: { name: shown.name }, header: { "if-match": etag } };
  const named = (entry: Entry, field: ListField) => textOf(entry[field.key], field, catalogue);
  const hits = entries.filter((entry) =>
    words
      .toLowerCase()
      .split(/\s+/)
      .every((w) => shown.fields.some((f) => named(entry, f).toLowerCase().includes(w))),
  );
  const rows =
    shown.name === "equipment" && !words.trim()
      ? treeOrder(
          hits,
          (e) => codeOf(shown.name, e),
          (e) => (e.parent as string | null) ?? null,
        )
      : hits.map((entry) => ({ entry, depth: 0 }));
  const wrong = problemsByField(error, shown.fields);
  const save = () =>
    open &&
    act(
      need(
        client.PUT("/api/v1/lists/{name}", { params: at, body: { replaces: open.code, entry: open.entry } }),
      ),
    );
  return (
    <section aria-label={shown.title}>
      <p className="soft" style={{ margin: "0 0 8px" }}>
        {shown.about}
      </p>
      <div className="actions">
        <TextInput
          aria-label={`Filter ${shown.title.toLowerCase()}`}
          placeholder="Filter"
          w={220}
          value={words}
          onChange={(e) => setWords(e.currentTarget.value)}
        />
        <span className="soft">
          {hits.length} of {count(entries.length, "entry", "entries")}
        </span>
        {writes && (
          <Button
            variant="default"
            leftSection={<IconPlus size={15} />}
            onClick={() => {
              setError(null);
              setOpen({ code: null, entry: {} });
            }}
          >
            New entry
          </Button>
        )}
        <ListHistory name={shown.name} title={shown.title} writes={writes} onTakenBack={take} />
        <ListSheet page={page.data} writes={writes} onWritten={take} onStale={() => page.refetch()} />
      </div>
      {Object.keys(wrong).length === 0 ? (
        <Trouble error={error} />
      ) : (
        <p role="alert" className="note bad">
          Not saved: see{" "}
          {shown.fields
            .filter((f) => wrong[f.key])
            .map((f) => f.label.toLowerCase())
            .join(", ")}
          .
        </p>
      )}
      <table className="rows">
        <thead>
          <tr>
            {shown.fields.map((f) => (
              <th key={f.key}>{f.label}</th>
            ))}
            <th className="num">Used</th>
            {writes && <th aria-label="Change" />}
          </tr>
        </thead>
        <tbody>
          {open && open.code === null && (
            <EntryForm
              fields={shown.fields}
              entry={open.entry}
              catalogue={catalogue}
              wrong={wrong}
              onChange={(entry) => setOpen({ ...open, entry })}
              onSave={save}
              onCancel={() => setOpen(null)}
            />
          )}
          {rows.map(({ entry, depth }) => {
            const code = codeOf(shown.name, entry);
            return open?.code === code ? (
              <EntryForm
                key={code}
                fields={shown.fields}
                entry={open.entry}
                catalogue={catalogue}
                wrong={wrong}
                onChange={(next) => setOpen({ ...open, entry: next })}
                onSave={save}
                onCancel={() => setOpen(null)}
                onRemove={() =>
                  act(
                    need(
                      client.DELETE("/api/v1/lists/{name}/{code}", {
                        params: { path: { name: shown.name, code }, header: { "if-match": etag } },
                      }),
                    ),
                  )
                }
              />
            ) : (
              <tr key={code}>
                {shown.fields.map((f) => (
                  <td
                    key={f.key}
                    className={f.key === "code" ? "mono" : undefined}
                    style={f.key === "name" && depth ? { paddingLeft: depth * 22 } : undefined}
                  >
                    {named(entry, f)}
                  </td>
                ))}
                <td className="num" title={used[code]?.words}>
                  {used[code]?.total ?? 0}
                </td>
                {writes && (
                  <td>
                    <button
                      type="button"
                      className="linklike"
                      aria-label={`Change ${code}`}
                      onClick={() => {
                        setError(null);
                        setOpen({ code, entry });
                      }}
                    >
                      Change
                    </button>
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
      {entries.length === 0 && <p className="soft">Nothing in this list yet.</p>}
    </section>
  );
}

/** What the server found wrong, by the field it stands beside. */
function problemsByField(error: unknown, fields: ListField[]): Record<string, string> {
  const problems = error instanceof Refused ? error.problem.problems : [];
  const keys = new Set(fields.map((f) => f.key));
  return Object.fromEntries(
    problems.flatMap((p) => {
      const key = p.path.split("/").at(-1) ?? "";
      return keys.has(key) ? [[key, `${p.message.charAt(0).toUpperCase()}${p.message.slice(1)}`]] : [];
    }),
  );
}
