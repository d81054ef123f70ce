import { Navigate, Route, Routes, useLocation } from "react-router";
import { useMe } from "../api/queries";
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
import { SignIn } from "./SignIn";

export function App() {
  const me = useMe();
  const place = useLocation();
  if (me.isPending) return null;
  if (!me.data) return <SignIn back={place.pathname === "/" ? undefined : place.pathname + place.search} />;
  if (me.data.role === "technician") {
    return (
      <Routes>
        <Route path="/pocket" element={<PocketHome person={me.data} />} />
        <Route path="/pocket/:order" element={<PocketJob />} />
        <Route path="*" element={<Navigate to="/pocket" replace />} />
      </Routes>
    );
  }
  return (
    <Frame person={me.data}>
      <Routes>
        <Route path="/" element={<Navigate to={me.data.role === "planner" ? "/run" : "/author"} replace />} />
        <Route path="/author/documents/:document" element={<AuthorPage person={me.data} />} />
        <Route path="/author/:incident?" element={<AuthorPage person={me.data} />} />
        <Route path="/match" element={<MatchPage person={me.data} />} />
        <Route path="/match/tables/:table" element={<MatchPage person={me.data} />} />
        <Route path="/match/cover" element={<CoverPage person={me.data} />} />
        <Route path="/match/kits" element={<KitsPage person={me.data} />} />
        <Route path="/match/lists/:list?" element={<ListsPage person={me.data} />} />
        <Route path="/run" element={<OrdersPage person={me.data} />} />
        <Route path="/run/:order" element={<OrderSheet person={me.data} />} />
        <Route path="/review" element={<InboxPage />} />
        <Route path="/review/jobs/:order" element={<CompletionSheet person={me.data} />} />
        <Route path="/review/:incident" element={<EvidenceSheet person={me.data} />} />
        <Route path="/refine" element={<RefinePage person={me.data} />} />
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
