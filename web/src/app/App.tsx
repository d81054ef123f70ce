import { useEffect, useRef, useState } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { SESSION_ENDED, watchSession } from "../api/client";
import { useMe } from "../api/queries";
import type { Person } from "../api/types";
import { AuthorPage } from "../author/AuthorPage";
import { CoverPage } from "../match/CoverPage";
import { KitsPage } from "../match/KitsPage";
import { ListsPage } from "../match/ListsPage";
import { MatchPage } from "../match/MatchPage";
import { PocketHome } from "../pocket/PocketHome";
import { PocketJob } from "../pocket/PocketJob";
import { ComparePage } from "../refine/ComparePage";
import { RefinePage } from "../refine/RefinePage";
import { CompletionSheet } from "../review/CompletionSheet";
import { EvidenceSheet } from "../review/EvidenceSheet";
import { InboxPage } from "../review/InboxPage";
import { OrderSheet } from "../run/OrderSheet";
import { OrdersPage } from "../run/OrdersPage";
import { Empty } from "../ui/Empty";
import { Frame } from "./Frame";
import { Invitation } from "./Invitation";
import { PasswordPage } from "./PasswordPage";
import { PeoplePage } from "./PeoplePage";
import { SignIn, SignInOver } from "./SignIn";

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
      <Pages person={person} />
      {ended && <SignInOver person={person} onBack={() => setEnded(false)} />}
    </>
  );
}

function Pages({ person }: { person: Person }) {
  if (person.role === "technician") {
    return (
      <Routes>
        <Route path="/pocket" element={<PocketHome person={person} />} />
        <Route path="/pocket/:order" element={<PocketJob person={person} />} />
        <Route path="/password" element={<PasswordPage />} />
        <Route path="*" element={<Navigate to="/pocket" replace />} />
      </Routes>
    );
  }
  return (
    <Frame person={person}>
      <Routes>
        <Route path="/" element={<Navigate to={person.role === "planner" ? "/run" : "/author"} replace />} />
        <Route path="/password" element={<PasswordPage />} />
        {person.administrator && <Route path="/people" element={<PeoplePage person={person} />} />}
        <Route path="/author/documents/:document" element={<AuthorPage person={person} />} />
        <Route path="/author/:incident?" element={<AuthorPage person={person} />} />
        <Route path="/match" element={<MatchPage person={person} />} />
        <Route path="/match/tables/:table" element={<MatchPage person={person} />} />
        <Route path="/match/cover" element={<CoverPage person={person} />} />
        <Route path="/match/kits" element={<KitsPage person={person} />} />
        <Route path="/match/lists/:list?" element={<ListsPage person={person} />} />
        <Route path="/run" element={<OrdersPage person={person} />} />
        <Route path="/run/:order" element={<OrderSheet person={person} />} />
        <Route path="/review" element={<InboxPage />} />
        <Route path="/review/jobs/:order" element={<CompletionSheet person={person} />} />
        <Route path="/review/:incident" element={<EvidenceSheet person={person} />} />
        <Route path="/refine" element={<RefinePage person={person} />} />
        <Route path="/refine/documents/:document" element={<ComparePage />} />
        <Route path="/refine/:incident/:document" element={<ComparePage />} />
        <Route
          path="*"
          element={
            <main className="sheet" id="sheet">
              <Empty title="There is nothing at this address">
                The link may be old. Use Find anything, with the key /, or one of the five verbs above.
              </Empty>
            </main>
          }
        />
      </Routes>
    </Frame>
  );
}
