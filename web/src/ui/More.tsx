import { Button } from "@mantine/core";
import { count } from "./format";

/** At the end of a page of rows: how many of how many are shown, and the next ones. */
export function More({
  shown,
  total,
  what,
  going,
}: {
  shown: number;
  total: number;
  what: string;
  going: { hasNextPage: boolean; isFetchingNextPage: boolean; fetchNextPage: () => unknown };
}) {
  if (!going.hasNextPage || shown >= total) return null;
  return (
    <p className="soft" style={{ display: "flex", gap: 10, alignItems: "center" }}>
      {shown} of {count(total, what)} shown.
      <Button
        variant="default"
        size="compact-sm"
        loading={going.isFetchingNextPage}
        onClick={() => going.fetchNextPage()}
      >
        Show more
      </Button>
    </p>
  );
}
