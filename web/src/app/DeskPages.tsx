import { Navigate, Route, Routes } from "react-router";
import { mayWrite } from "../api/roles";
import type { Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { LookWithNotices } from "../ui/Look";
import { opened } from "../ui/opened";
import { Frame } from "./Frame";

const PasswordPage = opened(() => import("./PasswordPage").then((m) => m.PasswordPage));
const PeoplePage = opened(() => import("./PeoplePage").then((m) => m.PeoplePage));
const AuthorPage = opened(() => import("../author/AuthorPage").then((m) => m.AuthorPage));
const MatchPage = opened(() => import("../match/MatchPage").then((m) => m.MatchPage));
const CrewPage = opened(() => import("../match/CrewPage").then((m) => m.CrewPage));
const KitsPage = opened(() => import("../match/KitsPage").then((m) => m.KitsPage));
const ListsPage = opened(() => import("../match/ListsPage").then((m) => m.ListsPage));
const OrdersPage = opened(() => import("../run/OrdersPage").then((m) => m.OrdersPage));
const TimeSheetsPage = opened(() => import("../run/TimeSheetsPage").then((m) => m.TimeSheetsPage));
const OrderCardPage = opened(() => import("../run/OrderCardPage").then((m) => m.OrderCardPage));
const TakenAlong = opened(() => import("../run/TakenAlong").then((m) => m.TakenAlong));
const OrderSheet = opened(() => import("../run/OrderSheet").then((m) => m.OrderSheet));
const InboxPage = opened(() => import("../review/InboxPage").then((m) => m.InboxPage));
const DeskPage = opened(() => import("./DeskPage").then((m) => m.DeskPage));
const GuideBench = opened(() => import("../refine/GuideBench").then((m) => m.GuideBench));
const GuidePage = opened(() => import("../refine/GuidePage").then((m) => m.GuidePage));
const TogetherPage = opened(() => import("../review/TogetherPage").then((m) => m.TogetherPage));
const RoutinePage = opened(() => import("../review/RoutinePage").then((m) => m.RoutinePage));
const HelpPage = opened(() => import("../review/HelpPage").then((m) => m.HelpPage));
const CompletionSheet = opened(() => import("../review/CompletionSheet").then((m) => m.CompletionSheet));
const EvidenceSheet = opened(() => import("../review/EvidenceSheet").then((m) => m.EvidenceSheet));
const TrialPage = opened(() => import("../refine/TrialPage").then((m) => m.TrialPage));
const ReplayPage = opened(() => import("../refine/ReplayPage").then((m) => m.ReplayPage));
const RefinePage = opened(() => import("../refine/RefinePage").then((m) => m.RefinePage));
const ComparePage = opened(() => import("../refine/ComparePage").then((m) => m.ComparePage));

/** All that people at a desk open, each page loaded when it is first shown. */
export function DeskPages({ person }: { person: Person }) {
  return (
    <LookWithNotices>
      <Frame person={person}>
        <Routes>
          <Route path="/" element={<Navigate to={mayWrite(person) ? "/desk" : "/run"} replace />} />
          <Route path="/password" element={<PasswordPage />} />
          {person.administrator && <Route path="/people" element={<PeoplePage person={person} />} />}
          <Route path="/author/documents/:document" element={<AuthorPage person={person} />} />
          <Route path="/author/:incident?" element={<AuthorPage person={person} />} />
          <Route path="/match" element={<MatchPage person={person} />} />
          <Route path="/match/tables/:table" element={<MatchPage person={person} />} />
          <Route path="/match/crew" element={<CrewPage person={person} />} />
          <Route path="/match/kits" element={<KitsPage person={person} />} />
          <Route path="/match/lists/:list?" element={<ListsPage person={person} />} />
          <Route path="/run" element={<OrdersPage person={person} />} />
          <Route path="/run/time-sheets" element={<TimeSheetsPage />} />
          <Route path="/run/taking-along" element={<TakenAlong person={person} />} />
          <Route path="/run/order-card" element={<OrderCardPage person={person} />} />
          <Route path="/run/:order" element={<OrderSheet person={person} />} />
          <Route path="/desk" element={<DeskPage person={person} />} />
          <Route path="/refine/guides/:document" element={<GuideBench person={person} />} />
          <Route path="/refine/:incident/guide" element={<GuidePage person={person} />} />
          <Route path="/review" element={<InboxPage person={person} />} />
          <Route path="/review/routine" element={<RoutinePage />} />
          <Route path="/review/help" element={<HelpPage person={person} />} />
          <Route path="/review/help/:thread" element={<HelpPage person={person} />} />
          <Route path="/review/jobs/:order" element={<CompletionSheet person={person} />} />
          <Route path="/review/:incident/together" element={<TogetherPage person={person} />} />
          <Route path="/review/:incident" element={<EvidenceSheet person={person} />} />
          <Route path="/refine/trials/:trial" element={<TrialPage person={person} />} />
          <Route path="/refine" element={<RefinePage person={person} />} />
          <Route path="/refine/replays/:document" element={<ReplayPage />} />
          <Route path="/refine/:incident/:document/replay" element={<ReplayPage />} />
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
    </LookWithNotices>
  );
}
