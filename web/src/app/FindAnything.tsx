import { createSpotlight, Spotlight } from "@mantine/spotlight";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import type { Found } from "../api/types";

const [store, actions] = createSpotlight();

const PLACES: Record<Found["kind"], (id: string) => string> = {
  "incident type": (id) => `/author/${id}`,
  form: (id) => `/author/documents/${id}`,
  "standard step": (id) => `/author/documents/${id}`,
  "decision table": (id) => `/match/tables/${id}`,
  "fault guide": (id) => `/refine/guides/${id}`,
  order: (id) => `/run/${id}`,
  asset: (id) => `/match?asset=${id}`,
};

/** Opens whenever `asked` rises. Find incident types, forms, standard steps, decision tables, orders and assets by a few letters. */
export function FindAnything({ asked }: { asked: number }) {
  const [text, setText] = useState("");
  const navigate = useNavigate();
  useEffect(() => {
    if (asked > 0) actions.open();
  }, [asked]);
  const found = useQuery({
    queryKey: ["find", text],
    queryFn: () => need(client.GET("/api/v1/search", { params: { query: { q: text } } })),
    enabled: text.trim().length > 0,
    placeholderData: (before) => before,
  });
  const hits = text.trim() ? (found.data ?? []) : [];
  return (
    <Spotlight.Root
      store={store}
      query={text}
      onQueryChange={setText}
      shortcut={null}
      scrollable
      maxHeight={420}
    >
      <Spotlight.Search placeholder="Incident type, form, order, asset" aria-label="Find anything" />
      <Spotlight.ActionsList>
        {hits.map((hit) => (
          <Spotlight.Action
            key={`${hit.kind}${hit.id}`}
            label={hit.title}
            description={`${hit.id}, ${hit.kind}. ${hit.detail}`}
            onClick={() => navigate(PLACES[hit.kind](hit.id))}
          />
        ))}
        {hits.length === 0 && (
          <Spotlight.Empty>
            {text.trim() ? "Nothing has all these words." : "Type a few letters."}
          </Spotlight.Empty>
        )}
      </Spotlight.ActionsList>
    </Spotlight.Root>
  );
}
