import { Menu, useComputedColorScheme, useMantineColorScheme } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { IconKey, IconLogout, IconMoon, IconSun, IconUsers } from "@tabler/icons-react";
import { type ReactNode, useRef, useState } from "react";
import { Link, NavLink, useNavigate } from "react-router";
import { useSignOut, useWaiting } from "../api/queries";
import type { Person, Waiting } from "../api/types";
import { initials } from "../ui/format";
import { Mark } from "../ui/Mark";
import { FindAnything, openFind } from "./FindAnything";
import { KeyList } from "./KeyList";

const VERBS: { name: string; to: string; key: string; count?: keyof Waiting; counts: string }[] = [
  { name: "Author", to: "/author", key: "a", count: "author", counts: "in review" },
  { name: "Match", to: "/match", key: "m", counts: "" },
  { name: "Run", to: "/run", key: "r", count: "run", counts: "to plan" },
  { name: "Review", to: "/review", key: "v", count: "review", counts: "to read" },
  { name: "Refine", to: "/refine", key: "f", count: "refine", counts: "being refined" },
];

/** The dark band with the five verbs of the loop, and the page below it. */
export function Frame({ person, children }: { person: Person; children: ReactNode }) {
  const waiting = useWaiting(true);
  const navigate = useNavigate();
  const scheme = useComputedColorScheme("light");
  const { setColorScheme } = useMantineColorScheme();
  const [keysShown, setKeysShown] = useState(false);
  const afterG = useRef(0);

  useHotkeys([
    ["/", () => openFind()],
    ["shift+?", () => setKeysShown(true)],
    ["g", () => (afterG.current = Date.now())],
    ...VERBS.map(
      ({ key, to }) =>
        [key, () => Date.now() - afterG.current < 1500 && navigate(to)] as [string, () => void],
    ),
  ]);

  const leave = useSignOut();
  async function signOut() {
    try {
      await leave();
      navigate("/");
    } catch (error) {
      notifications.show({ color: "bad", message: (error as Error).message });
    }
  }

  return (
    <div className="frame">
      <a className="skip" href="#sheet">
        Skip to the sheet
      </a>
      <header className="band">
        <Link to="/" className="brand">
          <Mark /> Reedling
        </Link>
        <nav className="verbs" aria-label="The loop">
          {VERBS.map((verb) => {
            const n = verb.count ? waiting.data?.[verb.count] : 0;
            return (
              <NavLink key={verb.name} to={verb.to}>
                {verb.name}
                {n ? (
                  <span className="count" title={`${n} ${verb.counts}`}>
                    {n}
                  </span>
                ) : null}
              </NavLink>
            );
          })}
        </nav>
        <button type="button" className="find" onClick={openFind}>
          <span>Find anything</span>
          <kbd>/</kbd>
        </button>
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
              {scheme === "dark" ? "Light paper" : "Dark paper"}
            </Menu.Item>
            <Menu.Item onClick={() => setKeysShown(true)} rightSection={<kbd>?</kbd>}>
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
      </header>
      {children}
      <FindAnything />
      <KeyList shown={keysShown} onClose={() => setKeysShown(false)} />
    </div>
  );
}
