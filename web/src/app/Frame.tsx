import { useHotkeys } from "@mantine/hooks";
import { type ReactNode, useRef, useState } from "react";
import { Link, NavLink, useNavigate } from "react-router";
import { useWaiting } from "../api/queries";
import type { Person, Waiting } from "../api/types";
import { Mark } from "../ui/Mark";
import { opened } from "../ui/opened";

const FindAnything = opened(() => import("./FindAnything").then((m) => m.FindAnything), null);
const PersonMenu = opened(() => import("./PersonMenu").then((m) => m.PersonMenu), null);
const KeyList = opened(() => import("./KeyList").then((m) => m.KeyList), null);

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
  const [keysShown, setKeysShown] = useState(false);
  const [asked, setAsked] = useState(0);
  const openFind = () => setAsked((n) => n + 1);
  const afterG = useRef(0);

  useHotkeys([
    ["/", () => openFind()],
    ["shift+?", () => setKeysShown(true)],
    ["g", () => (afterG.current = Date.now())],
    ["d", () => Date.now() - afterG.current < 1500 && navigate("/")],
    ...VERBS.map(
      ({ key, to }) =>
        [key, () => Date.now() - afterG.current < 1500 && navigate(to)] as [string, () => void],
    ),
  ]);

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
        <PersonMenu person={person} onKeys={() => setKeysShown(true)} />
      </header>
      {children}
      {asked > 0 && <FindAnything asked={asked} />}
      {keysShown && <KeyList shown={keysShown} onClose={() => setKeysShown(false)} />}
    </div>
  );
}
