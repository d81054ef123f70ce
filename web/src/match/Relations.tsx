import { ActionIcon, Button, Select, TextInput } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import { useState } from "react";
import type { TableView } from "../api/types";

type Content = TableView["content"];

/** Pairs that never go together, and what comes after what. */
export function Relations({
  view,
  editable,
  onRework,
}: {
  view: TableView;
  editable: boolean;
  onRework: <F extends "never_together" | "after">(field: F, make: (now: Content[F]) => Content[F]) => void;
}) {
  const { never_together, after } = view.content;
  const title = (document: string) => view.documents.find((d) => d.document === document)?.title ?? document;
  if (!editable && never_together.length + after.length === 0) return null;
  return (
    <div className="relations">
      <section aria-label="Never together">
        <h2>Never together</h2>
        <ul>
          {never_together.map((pair) => (
            <li key={`${pair.first}${pair.second}`}>
              {title(pair.first)} and {title(pair.second)}
              {pair.why && <span className="soft">: {pair.why}</span>}
              {editable && (
                <Remove
                  label={`Let ${title(pair.first)} and ${title(pair.second)} go together`}
                  onClick={() =>
                    onRework("never_together", (now) =>
                      now.filter((p) => p.first !== pair.first || p.second !== pair.second),
                    )
                  }
                />
              )}
            </li>
          ))}
        </ul>
        {editable && (
          <TwoDocuments
            view={view}
            between="and"
            label="Never together"
            reason
            onAdd={(first, second, why) =>
              onRework("never_together", (now) => [...now, { first, second, why }])
            }
          />
        )}
        {!editable && never_together.length === 0 && <p className="soft">No pair.</p>}
      </section>
      <section aria-label="Comes after">
        <h2>Comes after, within a phase</h2>
        <ul>
          {after.map((a) => (
            <li key={`${a.document}${a.earlier}`}>
              {title(a.document)} after {title(a.earlier)}
              {editable && (
                <Remove
                  label={`Take away that ${title(a.document)} comes after ${title(a.earlier)}`}
                  onClick={() =>
                    onRework("after", (now) =>
                      now.filter((x) => x.document !== a.document || x.earlier !== a.earlier),
                    )
                  }
                />
              )}
            </li>
          ))}
        </ul>
        {editable && (
          <TwoDocuments
            view={view}
            between="after"
            label="Comes after"
            onAdd={(document, earlier) => onRework("after", (now) => [...now, { document, earlier }])}
          />
        )}
        {!editable && after.length === 0 && <p className="soft">Only phases and the order of rows.</p>}
      </section>
    </div>
  );
}

function Remove({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <ActionIcon variant="subtle" color="slate" size={24} aria-label={label} onClick={onClick}>
      <IconX size={13} />
    </ActionIcon>
  );
}

function TwoDocuments({
  view,
  between,
  label,
  reason = false,
  onAdd,
}: {
  view: TableView;
  between: string;
  label: string;
  reason?: boolean;
  onAdd: (first: string, second: string, why: string) => void;
}) {
  const [first, setFirst] = useState<string | null>(null);
  const [second, setSecond] = useState<string | null>(null);
  const [why, setWhy] = useState("");
  const data = view.documents.map((d) => ({ value: d.document, label: d.title }));
  return (
    <>
      <div className="relation-new">
        <Select aria-label={`${label}, first`} searchable data={data} value={first} onChange={setFirst} />
        <span className="soft">{between}</span>
        <Select aria-label={`${label}, second`} searchable data={data} value={second} onChange={setSecond} />
        <Button
          variant="default"
          disabled={!first || !second || first === second}
          onClick={() => {
            onAdd(first ?? "", second ?? "", why.trim());
            setFirst(null);
            setSecond(null);
            setWhy("");
          }}
        >
          Add
        </Button>
      </div>
      {reason && first && second && (
        <TextInput
          mt={6}
          aria-label="Why they never go together"
          placeholder="Why, for the one who meets it"
          value={why}
          onChange={(e) => setWhy(e.currentTarget.value)}
        />
      )}
    </>
  );
}
