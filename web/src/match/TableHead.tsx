import { Button } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { useNoticed } from "../api/queries";
import type { Person, TableView } from "../api/types";
import { EditableText } from "../draft/EditableText";
import { ReleaseBar } from "../draft/ReleaseBar";
import { SheetHead } from "../draft/SheetHead";
import { useDiscard } from "../draft/use-discard";
import { type Draft, setPlan } from "../draft/use-draft";
import { count } from "../ui/format";
import { NoticedDrawer } from "./Noticed";

interface Props {
  view: TableView;
  draft: Draft<TableView["content"]>;
  editable: boolean;
  /** Whether it is being written or reviewed. */
  isOpen: boolean;
  person: Person;
}

/** The head of a table: its words, who would notice its draft, and its way to release. */
export function TableHead({ view, draft, editable, isOpen, person }: Props) {
  const noticed = useNoticed(view.document, view.etag);
  const [noticing, setNoticing] = useState(false);
  const discard = useDiscard([view], {
    only: view.history.length === 1,
    all: "Throw this table away? Nothing of it was released.",
    home: "/match",
  });
  return (
    <>
      <SheetHead
        line={`table, ${count(view.rows.length, "row")}`}
        plan={view}
        title={view.content.title}
        titleEditable={editable}
        editable={editable}
        draft={draft}
        compareTo={`/refine/documents/${view.document}`}
        onRename={(title) => draft.change(setPlan("title", title))}
      >
        {isOpen && (
          <Button variant="default" onClick={() => setNoticing(true)}>
            Who would notice: {noticed.data ? count(noticed.data.n_changed, "order") : "…"}
          </Button>
        )}
        <ReleaseBar
          document={view.document}
          plan={view}
          openStates={isOpen ? [view.state] : []}
          person={person}
          historyBase={`/refine/documents/${view.document}`}
          discard={discard}
        />
      </SheetHead>
      <div className="plan-summary">
        <EditableText
          label="Summary"
          placeholder="What the table is for, in a sentence"
          value={view.content.summary}
          editable={editable}
          onSave={(value) => draft.change(setPlan("summary", value))}
        />
      </div>
      {isOpen && view.in_force && (
        <p>
          <Link to={`/refine/replays/${view.document}`}>Replay the draft on past jobs</Link>
        </p>
      )}
      <NoticedDrawer
        document={view.document}
        etag={view.etag}
        shown={noticing}
        onClose={() => setNoticing(false)}
      />
    </>
  );
}
