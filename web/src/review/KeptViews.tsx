import { Button, CloseButton, TextInput } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import type { KeptViewLine, Person } from "../api/types";
import { useChange } from "../api/use-change";
import { dayYear } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { type Choices, inAddress } from "./choices";

/** Choices of jobs that are kept by name, each a link; and a way to keep those of now. */
export function KeptViews({
  incident,
  person,
  views,
  query,
}: {
  incident: string;
  person: Person;
  views: readonly KeptViewLine[];
  /** What is chosen now. */
  query: Choices;
}) {
  const [name, setName] = useState<string | null>(null);
  const key = ["kept-views", incident];
  const path = { document: incident };
  const keep = useChange(
    (as: string) =>
      need(
        client.POST("/api/v1/incident-types/{document}/kept-views", {
          params: { path, query },
          body: { name: as },
        }),
      ),
    [key],
  );
  const letGo = useChange(
    (of: string) =>
      need(
        client.DELETE("/api/v1/incident-types/{document}/kept-views", {
          params: { path, query: { name: of } },
        }),
      ),
    [key],
  );
  const isChosen = Object.keys(query).length > 0;
  if (views.length === 0 && !isChosen) return null;
  return (
    <section aria-label="Kept views" className="kept-views">
      {views.length > 0 && <span className="soft">Kept:</span>}
      {views.map((view) => (
        <span key={view.name} className="kept-view">
          <Link
            to={`/review/${incident}/together?${inAddress(view.choices)}`}
            title={`Kept by ${view.by_name}, ${dayYear(view.at)}`}
          >
            {view.name}
          </Link>
          {(view.mine || person.role === "approver") && (
            <CloseButton
              size="xs"
              aria-label={`Let the view ${view.name} go`}
              onClick={() => letGo.mutate(view.name)}
            />
          )}
        </span>
      ))}
      {isChosen && name === null && (
        <Button variant="subtle" onClick={() => setName("")}>
          Keep this view
        </Button>
      )}
      {name !== null && (
        <form
          className="kept-view-form"
          onSubmit={(event) => {
            event.preventDefault();
            keep.mutate(name, { onSuccess: () => setName(null) });
          }}
        >
          <TextInput
            aria-label="Name of the view"
            placeholder="Name of the view"
            maxLength={60}
            value={name}
            autoFocus
            onChange={(event) => setName(event.currentTarget.value)}
            onKeyDown={(event) => event.key === "Escape" && setName(null)}
          />
          <Button type="submit" variant="default" disabled={!name.trim()} loading={keep.isPending}>
            Keep it
          </Button>
        </form>
      )}
      <Trouble error={keep.error ?? letGo.error} />
    </section>
  );
}
