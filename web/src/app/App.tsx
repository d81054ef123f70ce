import { useEffect, useRef, useState } from "react";
import { Route, Routes, useLocation } from "react-router";
import { SESSION_ENDED, Unreachable, watchSession } from "../api/client";
import { forgetPerson, keepPerson, keptPerson } from "../api/kept-person";
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
  // In Pocket, whoever was signed in on this device goes on without waiting for the server.
  const kept = place.pathname.startsWith("/pocket") ? keptPerson() : null;
  const waits = me.isPending || me.error instanceof Unreachable;
  const known = me.data ?? (waits ? kept : null) ?? undefined;
  if (known) last.current = known;
  const signedIn = Boolean(known);
  useEffect(() => {
    if (signedIn) watchSession(true);
  }, [signedIn]);
  useEffect(() => {
    if (me.data?.role === "technician") keepPerson(me.data);
    else if (me.data) forgetPerson();
  }, [me.data]);
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
  if (me.isPending && !known) return null;
  // A page that is open stays open when the session ends, with all that was typed in it.
  const person = known ?? (ended ? last.current : undefined);
  if (!person) return <SignIn back={place.pathname === "/" ? undefined : place.pathname + place.search} />;
  return (
    <>
      {person.role === "technician" ? (
        <PocketPages key={person.id} person={person} />
      ) : (
        <DeskPages person={person} />
      )}
      {ended && <SignInOver person={person} onBack={() => setEnded(false)} />}
    </>
  );
}
