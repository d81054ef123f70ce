import { useEffect } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import type { Person } from "../api/types";
import { useOwnDay } from "../pocket/day";
import { installPocket } from "../pocket/install";
import { NewVersion } from "../pocket/NewVersion";
import { PocketHome } from "../pocket/PocketHome";
import { opened } from "../ui/opened";

const loadJob = () => import("../pocket/PocketJob").then((m) => m.PocketJob);
const PocketJob = opened(loadJob);
/** Fetched after the first page is drawn, and with it what fields and dialogs need: there may be no network later. */
const Notices = opened(() => import("../ui/Look").then((m) => m.Notices), null);
const TimeSheet = opened(() => import("../pocket/TimeSheet").then((m) => m.TimeSheet));
const PasswordPage = opened(() => import("./PocketPassword").then((m) => m.PocketPassword));

/** All that a technician opens. */
export function PocketPages({ person }: { person: Person }) {
  // Whichever page is opened first, there may be no network on the next.
  const own = useOwnDay(person.id, useLocation().pathname === "/pocket");
  useEffect(installPocket, []);
  // A job is opened next, and by then there may be no network.
  useEffect(() => void loadJob().catch(() => undefined), []);
  return (
    <>
      <NewVersion />
      <Routes>
        <Route path="/pocket" element={<PocketHome person={person} own={own} />} />
        <Route path="/pocket/times" element={<TimeSheet person={person.id} />} />
        <Route path="/pocket/:order" element={<PocketJob person={person} day={own.day} />} />
        <Route path="/password" element={<PasswordPage />} />
        <Route path="*" element={<Navigate to="/pocket" replace />} />
      </Routes>
      <Notices />
    </>
  );
}
