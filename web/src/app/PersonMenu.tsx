import { Menu, useComputedColorScheme, useMantineColorScheme } from "@mantine/core";
import { IconKey, IconLogout, IconMoon, IconSun, IconUsers } from "@tabler/icons-react";
import { Link, useNavigate } from "react-router";
import { useSignOut } from "../api/queries";
import type { Person } from "../api/types";
import { initials } from "../ui/format";
import { tellRefusal } from "../ui/use-act";

/** Who is signed in, and what belongs to them: paper, keys, password, signing out. */
export function PersonMenu({ person, onKeys }: { person: Person; onKeys: () => void }) {
  const navigate = useNavigate();
  const scheme = useComputedColorScheme("light");
  const { setColorScheme } = useMantineColorScheme();
  const leave = useSignOut();
  async function signOut() {
    try {
      await leave();
      void navigate("/");
    } catch (error) {
      tellRefusal(error);
    }
  }

  return (
    <Menu position="bottom-end" width={230}>
      <Menu.Target>
        <button
          type="button"
          className="person"
          aria-label={`${initials(person.name)}: ${person.name}, ${person.role}`}
        >
          {initials(person.name)}
        </button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>
          {person.name}, {person.role}
        </Menu.Label>
        <Menu.Item
          leftSection={scheme === "dark" ? <IconSun size={16} /> : <IconMoon size={16} />}
          onClick={() => setColorScheme(scheme === "dark" ? "light" : "dark")}
        >
          {scheme === "dark" ? "Light mode" : "Dark mode"}
        </Menu.Item>
        <Menu.Item onClick={() => onKeys()} rightSection={<kbd>?</kbd>}>
          All keys
        </Menu.Item>
        {person.administrator && (
          <Menu.Item component={Link} to="/people" leftSection={<IconUsers size={16} />}>
            People
          </Menu.Item>
        )}
        <Menu.Item component={Link} to="/password" leftSection={<IconKey size={16} />}>
          Your password
        </Menu.Item>
        <Menu.Item leftSection={<IconLogout size={16} />} onClick={signOut}>
          Sign out
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
