import { Button } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useSharedDocuments, useShelf } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person, SharedRow, ShelfRow } from "../api/types";
import { Empty } from "../ui/Empty";
import { count, percent, shareText } from "../ui/format";
import { Shelf, type ShelfItem } from "../ui/Shelf";
import { DocumentBench } from "./DocumentBench";
import { IncidentTypeBench } from "./IncidentTypeBench";
import { NewDocument, type NewKind } from "./NewDocument";

const incidentItem = (row: ShelfRow): ShelfItem => ({
  id: row.document,
  title: row.title,
  group: row.group,
  to: `/author/${row.document}`,
  figure: row.fixed_first_time.share === null ? "–" : `${percent(row.fixed_first_time.share)}%`,
  figureTitle: `Fixed first time: ${shareText(row.fixed_first_time)}`,
  mark: row.states.join(", ").toLowerCase() || undefined,
});

const sharedItem = ({ link, n_used, n_questions, in_force }: SharedRow): ShelfItem => ({
  id: link.document,
  title: link.title,
  group: link.kind === "form" ? "Forms" : "Standard steps",
  to: `/author/documents/${link.document}`,
  figure: `${n_used}×`,
  figureTitle: `Used in ${count(n_used, "document")}, ${count(n_questions, "question")}`,
  mark: link.state === "Released" ? undefined : in_force ? link.state.toLowerCase() : "not in force yet",
});

/** Author: the shelf of incident types, forms and standard steps, and the one being written. */
export function AuthorPage({ person }: { person: Person }) {
  const { incident, document } = useParams();
  const shelf = useShelf();
  const shared = useSharedDocuments();
  const navigate = useNavigate();
  const [beginning, setBeginning] = useState<NewKind | null>(null);
  const writes = mayWrite(person);
  const rows = shelf.data ?? [];
  // What comes below waits for what stands above it, so that nothing moves under the pointer.
  const others = shelf.data ? (shared.data ?? []) : [];
  const items = [
    ...rows.map(incidentItem),
    ...others.filter((row) => row.link.kind === "form").map(sharedItem),
    ...others.filter((row) => row.link.kind === "standard step").map(sharedItem),
  ];
  return (
    <div className={incident || document ? "bench" : "bench no-margin"}>
      <Shelf label="Incident types" items={items}>
        {writes && (
          <div className="shelf-new">
            <Button
              variant="default"
              leftSection={<IconPlus size={15} />}
              onClick={() => setBeginning("incident type")}
            >
              New incident type
            </Button>
            <span className="shelf-also">
              <button type="button" className="linklike" onClick={() => setBeginning("form")}>
                New form
              </button>
              <button type="button" className="linklike" onClick={() => setBeginning("standard step")}>
                New standard step
              </button>
            </span>
          </div>
        )}
      </Shelf>
      {incident ? (
        <IncidentTypeBench key={incident} incident={incident} person={person} />
      ) : document ? (
        <DocumentBench key={document} document={document} person={person} />
      ) : (
        <main className="sheet" id="sheet">
          <Empty title={rows.length ? "Choose an incident type" : "Nothing is written yet"}>
            <p>
              {rows.length
                ? "Its plan, what the field made of each step, and the Pocket preview open here."
                : "Begin with the call-out that comes most often: its title is enough to start."}
            </p>
            {writes && <Button onClick={() => setBeginning("incident type")}>New incident type</Button>}
          </Empty>
        </main>
      )}
      <NewDocument
        kind={beginning}
        onClose={() => setBeginning(null)}
        onMade={(kind, id) =>
          navigate(kind === "incident type" ? `/author/${id}` : `/author/documents/${id}`)
        }
      />
    </div>
  );
}
