import { Button } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useShelf } from "../api/queries";
import type { Person, ShelfRow } from "../api/types";
import { Empty } from "../ui/Empty";
import { percent, shareText } from "../ui/format";
import { Shelf, type ShelfItem } from "../ui/Shelf";
import { IncidentTypeBench } from "./IncidentTypeBench";
import { NewIncidentType } from "./NewIncidentType";

const shelfItem =
  (to: (id: string) => string) =>
  (row: ShelfRow): ShelfItem => ({
    id: row.document,
    title: row.title,
    group: row.group,
    to: to(row.document),
    figure: row.fixed_first_time.share === null ? "–" : `${percent(row.fixed_first_time.share)}%`,
    figureTitle: `Fixed first time: ${shareText(row.fixed_first_time)}`,
    mark: row.states.join(", ").toLowerCase() || undefined,
  });

/** Author: the shelf of incident types, and the one being written. */
export function AuthorPage({ person }: { person: Person }) {
  const { incident } = useParams();
  const shelf = useShelf();
  const navigate = useNavigate();
  const [beginning, setBeginning] = useState(false);
  const writes = person.role === "engineer" || person.role === "approver";
  const rows = shelf.data ?? [];
  return (
    <div className={incident ? "bench" : "bench no-margin"}>
      <Shelf label="Incident types" items={rows.map(shelfItem((id) => `/author/${id}`))}>
        {writes && (
          <Button variant="default" leftSection={<IconPlus size={15} />} onClick={() => setBeginning(true)}>
            New incident type
          </Button>
        )}
      </Shelf>
      {incident ? (
        <IncidentTypeBench key={incident} incident={incident} person={person} />
      ) : (
        <main className="sheet" id="sheet">
          <Empty title={rows.length ? "Choose an incident type" : "Nothing is written yet"}>
            <p>
              {rows.length
                ? "Its plan, what the field made of each step, and the Pocket preview open here."
                : "Begin with the call-out that comes most often: its title is enough to start."}
            </p>
            {writes && <Button onClick={() => setBeginning(true)}>New incident type</Button>}
          </Empty>
        </main>
      )}
      <NewIncidentType
        shown={beginning}
        onClose={() => setBeginning(false)}
        onMade={(id) => navigate(`/author/${id}`)}
      />
    </div>
  );
}
