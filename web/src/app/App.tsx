import { useEffect, useRef, useState } from "react";
import { Route, Routes, useLocation } from "react-router";
import { SESSION_ENDED, watchSession } from "../api/client";
import { useMe } from "../api/queries";
import type { Person } from "../api/types";
import { opened } from "../ui/opened";

// Each of these is loaded when somebody of its role opens it: a phone gets nothing of the desk.
const SignIn = opened(() => import("./SignIn").then((m) => m.SignIn));
const SignInOver = opened(() => import("./SignIn").then((m) => m.SignInOver));
const Invitation = opened(() => import("./Invitation").then((m) => m.Invitation));
const DeskPages = opened(() => import("./DeskPages").then((m) => m.DeskPages));
const PocketPages = opened(() => import("./PocketPages").then((m) => m.PocketPages));

export function App() {
  const me = useMe();
  const place = useLocation();
  const [ended, setEnded] = useState(false);
  const last = useRef<Person>(undefined);
  if (me.data) last.current = me.data;
  const signedIn = Boolean(me.data);
  useEffect(() => {
    if (signedIn) watchSession(true);
  }, [signedIn]);
  useEffect(() => {
    const end = () => setEnded(true);
    window.addEventListener(SESSION_ENDED, end);
    return () => window.removeEventListener(SESSION_ENDED, end);
  }, []);
  if (place.pathname.startsWith("/invitation/"))
    return (
      <Routes>
        <Route path="/invitation/:token" element={<Invitation />} />
      </Routes>
    );
  if (me.isPending) return null;
  // A page that is open stays open when the session ends, with all that was typed in it.
  const person = me.data ?? (ended ? last.current : undefined);
  if (!person) return <SignIn back={place.pathname === "/" ? undefined : place.pathname + place.search} />;
  return (
    <>
      {person.role === "technician" ? <PocketPages person={person} /> : <DeskPages person={person} />}
      {ended && <SignInOver person={person} onBack={() => setEnded(false)} />}
    </>
  );
}
