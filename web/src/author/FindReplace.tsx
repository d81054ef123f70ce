import { Button, Popover, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, need } from "../api/client";
import type { PlanView } from "../api/types";
import type { Draft } from "../draft/use-draft";
import { count } from "../ui/format";

/** Find words wherever the document has them, and put others in their place. */
export function FindReplace({
  plan,
  draft,
  onOpen,
}: {
  plan: PlanView;
  draft: Draft;
  onOpen: (step: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [find, setFind] = useState("");
  const [by, setBy] = useState("");
  const [matchCase, setMatchCase] = useState(false);
  const found = useQuery({
    queryKey: ["find-words", plan.document, plan.etag, find, matchCase],
    queryFn: () =>
      need(
        client.GET("/api/v1/documents/{document}/text-places", {
          params: { path: { document: plan.document }, query: { words: find, match_case: matchCase } },
        }),
      ),
    enabled: open && find.trim().length > 0,
  });
  const places = found.data ?? [];
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" width={380} trapFocus>
      <Popover.Target>
        <Button variant="subtle" color="slate" size="compact-sm" onClick={() => setOpen(!open)}>
          Find and replace
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <TextInput label="Find" value={find} onChange={(e) => setFind(e.currentTarget.value)} />
        <TextInput label="Replace by" mt={6} value={by} onChange={(e) => setBy(e.currentTarget.value)} />
        <label className="clause">
          <input
            type="checkbox"
            checked={matchCase}
            onChange={(e) => setMatchCase(e.currentTarget.checked)}
          />
          capitals matter
        </label>
        {find.trim() && <p className="soft">{count(places.length, "place")} with these words.</p>}
        <ul className="found-words">
          {places.slice(0, 30).map((place) => (
            <li key={`${place.step} ${place.what} ${place.text}`}>
              <button type="button" className="linklike" onClick={() => place.step && onOpen(place.step)}>
                {place.what}: {place.text.slice(0, 70)}
              </button>
            </li>
          ))}
        </ul>
        <Button
          disabled={places.length === 0}
          onClick={() => {
            void draft.change({ edit: { kind: "replace text", find, by, match_case: matchCase } });
            setOpen(false);
          }}
        >
          Replace in {count(places.length, "place")}
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
