import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { IconPlus } from "@tabler/icons-react";
import { NavLink, useNavigate } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, useCache, useTables } from "../api/queries";

/** The pages of Match in one line: each decision table, who can do what, kits, and the lists. */
export function MatchNav({ writes }: { writes: boolean }) {
  const tables = useTables().data ?? [];
  const navigate = useNavigate();
  const cache = useCache();

  async function begin() {
    try {
      const body = { kind: "decision table" as const, title: "When documents apply" };
      const made = await need(client.POST("/api/v1/documents", { body }));
      guidanceChanged(cache);
      void navigate(`/match/tables/${made.id}`);
    } catch (error) {
      notifications.show({ color: "bad", message: (error as Error).message });
    }
  }

  return (
    <nav className="match-nav" aria-label="Match">
      {tables.map(({ link }) => (
        <NavLink key={link.document} to={`/match/tables/${link.document}`}>
          {link.title}
        </NavLink>
      ))}
      {writes && (
        <Button
          variant="subtle"
          color="slate"
          size="compact-sm"
          leftSection={<IconPlus size={14} />}
          onClick={begin}
        >
          New table
        </Button>
      )}
      <span className="end" />
      <NavLink to="/match/crew">Who can do it</NavLink>
      <NavLink to="/match/kits">Parts and kits</NavLink>
      <NavLink to="/match/lists">Lists</NavLink>
    </nav>
  );
}
