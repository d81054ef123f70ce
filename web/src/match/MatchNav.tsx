import { Button } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { NavLink, useNavigate } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, useTables } from "../api/queries";
import { useAct } from "../ui/use-act";

/** The pages of Match in one line: each decision table, who can do what, kits, and the lists. */
export function MatchNav({ writes }: { writes: boolean }) {
  const tables = useTables().data ?? [];
  const navigate = useNavigate();
  const { act } = useAct(guidanceChanged);

  async function begin() {
    const body = { kind: "decision table" as const, title: "When documents apply" };
    const made = await act(() => need(client.POST("/api/v1/documents", { body })));
    if (made) void navigate(`/match/tables/${made.id}`);
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
      <NavLink to="/match/kits">Parts, tools and kits</NavLink>
      <NavLink to="/match/lists">Lists</NavLink>
    </nav>
  );
}
