import {
  keepPreviousData,
  type QueryClient,
  useInfiniteQuery,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { client, need, watchSession } from "./client";
import type { Answers, ListName, OrderCard, OrderLine, TakingAlong } from "./types";

export const keys = {
  me: ["me"] as const,
  waiting: ["waiting"] as const,
  shelf: ["shelf"] as const,
  page: (id: string) => ["page", id] as const,
  document: (id: string) => ["document", id] as const,
  table: (id: string) => ["table", id] as const,
  guide: (id: string) => ["guide", id] as const,
  shared: ["shared"] as const,
  comments: (id: string) => ["comments", id] as const,
  evidence: (id: string, revision?: string) => ["evidence", id, revision ?? ""] as const,
  orders: ["orders"] as const,
  order: (id: string) => ["order", id] as const,
  inbox: ["inbox"] as const,
  loose: ["loose"] as const,
  siteRecords: ["site-records"] as const,
  takingAlong: ["taking-along"] as const,
  orderCard: ["order-card"] as const,
  trials: ["trials"] as const,
  triedOrders: ["tried-orders"] as const,
};

/** Everything that counts or lists orders may have changed. */
export function ordersChanged(cache: QueryClient) {
  for (const key of [
    keys.orders,
    keys.inbox,
    keys.loose,
    keys.siteRecords,
    keys.waiting,
    ["order"],
    ["evidence"],
  ]) {
    void cache.invalidateQueries({ queryKey: key });
  }
}

/** Everything that shows authored guidance may have changed. */
export function guidanceChanged(cache: QueryClient) {
  for (const key of [
    keys.shelf,
    keys.shared,
    keys.waiting,
    ["page"],
    ["document"],
    ["compare"],
    ["effect"],
    ["acts"],
    ["guide"],
    ["guide-of"],
    ["changes-done"],
    ["tables"],
    ["table"],
    ["noticed"],
    ["coverage"],
    keys.triedOrders,
    keys.trials,
    ["crew"],
    ["kit"],
    ["discarded"],
  ]) {
    void cache.invalidateQueries({ queryKey: key });
  }
}

export const useMe = () =>
  useQuery({
    queryKey: keys.me,
    queryFn: () => need(client.GET("/api/v1/session")),
    retry: false,
    staleTime: 60_000,
  });

export const useSignInPage = () =>
  useQuery({ queryKey: ["sign-in"], queryFn: () => need(client.GET("/api/v1/sign-in")) });

export const useWaiting = (enabled: boolean) =>
  useQuery({
    queryKey: keys.waiting,
    queryFn: () => need(client.GET("/api/v1/waiting")),
    refetchInterval: 30_000,
    enabled,
  });

export const useCatalogue = () =>
  useQuery({
    queryKey: ["catalogue"],
    queryFn: () => need(client.GET("/api/v1/lists")),
    staleTime: 300_000,
  });

/** The words that fields choose from; they never change while the page is open. */
export const useChoices = () =>
  useQuery({
    queryKey: ["choices"],
    queryFn: () => need(client.GET("/api/v1/choices")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useShelf = () =>
  useQuery({ queryKey: keys.shelf, queryFn: () => need(client.GET("/api/v1/incident-types")) });

export const useIncidentTypePage = (document: string) =>
  useQuery({
    queryKey: keys.page(document),
    queryFn: () => need(client.GET("/api/v1/incident-types/{document}", { params: { path: { document } } })),
  });

export const useEvidence = (document: string, revision?: string) =>
  useQuery({
    queryKey: keys.evidence(document, revision),
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/evidence", {
          params: { path: { document }, query: { revision } },
        }),
      ),
  });

export const usePlanDocument = (document: string) =>
  useQuery({
    queryKey: keys.document(document),
    queryFn: () => need(client.GET("/api/v1/documents/{document}/plan", { params: { path: { document } } })),
  });

export const useSharedDocuments = () =>
  useQuery({ queryKey: keys.shared, queryFn: () => need(client.GET("/api/v1/documents")) });

export const useFacts = () =>
  useQuery({
    queryKey: ["facts"],
    queryFn: () => need(client.GET("/api/v1/facts")),
    staleTime: 300_000,
  });

/** Questions from site that nobody has ended, asked for again and again. */
export const useHelpThreads = () =>
  useQuery({
    queryKey: ["help-threads"],
    queryFn: () => need(client.GET("/api/v1/help-threads")),
    refetchInterval: 5_000,
  });

export const useJobFacts = () =>
  useQuery({
    queryKey: ["job-facts"],
    queryFn: () => need(client.GET("/api/v1/job-facts")),
    staleTime: 300_000,
  });

export const useUnits = () =>
  useQuery({
    queryKey: ["units"],
    queryFn: () => need(client.GET("/api/v1/units")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useIllustrations = () =>
  useQuery({ queryKey: ["illustrations"], queryFn: () => need(client.GET("/api/v1/illustrations")) });

export const useComments = (document: string) =>
  useQuery({
    queryKey: keys.comments(document),
    queryFn: () =>
      need(client.GET("/api/v1/documents/{document}/comments", { params: { path: { document } } })),
  });

export const useActs = (document: string) =>
  useQuery({
    queryKey: ["acts", document],
    queryFn: () => need(client.GET("/api/v1/documents/{document}/acts", { params: { path: { document } } })),
  });

export const useReleaseEffect = (document: string, enabled: boolean) =>
  useQuery({
    queryKey: ["effect", document],
    queryFn: () =>
      need(client.GET("/api/v1/documents/{document}/effect", { params: { path: { document } } })),
    enabled,
    gcTime: 0,
  });

export interface PreviewState {
  answers: Answers;
  done: string[];
  reasons: Record<string, string>;
  asset: string | null;
}

export const usePreview = (documents: string[], etags: string[], state: PreviewState) =>
  useQuery({
    queryKey: ["preview", documents, etags, state],
    queryFn: () => need(client.POST("/api/v1/previews", { body: { documents, ...state } })),
    placeholderData: (before) => before,
    enabled: documents.length > 0,
    retry: false,
  });

export const useComparison = (document: string, older: string, newer: string) =>
  useQuery({
    queryKey: ["compare", document, older, newer],
    queryFn: () =>
      need(
        client.GET("/api/v1/documents/{document}/compare", {
          params: { path: { document }, query: { older, newer } },
        }),
      ),
  });

export const useOutcomes = (document: string, plan: string, older: string, newer: string) =>
  useQuery({
    queryKey: ["evidence", document, plan, older, newer],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/outcomes", {
          params: { path: { document }, query: { plan, older, newer } },
        }),
      ),
    enabled: Boolean(document && older && newer),
  });

export const useHistory = (document: string, letter: string) =>
  useQuery({
    queryKey: ["history", document, letter],
    queryFn: () =>
      need(
        client.GET("/api/v1/documents/{document}/revisions/{letter}/edits", {
          params: { path: { document, letter } },
        }),
      ),
  });

export const useAssets = () =>
  useQuery({ queryKey: ["assets"], queryFn: () => need(client.GET("/api/v1/assets")), staleTime: 300_000 });

export const useTechnicians = () =>
  useQuery({
    queryKey: ["technicians"],
    queryFn: () => need(client.GET("/api/v1/technicians")),
    staleTime: 300_000,
  });

/** An order to try: for an asset with a symptom, or one that came in; with a table's draft or not. */
export interface TriedOrder {
  asset: string | null;
  symptom: string | null;
  order?: string | null;
  incident_type?: string;
  priority?: string;
  day?: string | null;
  draft?: string | null;
}

export const useOrderTried = (tried: TriedOrder) =>
  useQuery({
    queryKey: [...keys.triedOrders, tried],
    queryFn: () =>
      need(
        client.POST("/api/v1/tried-orders", {
          body: {
            asset: tried.asset ?? "",
            symptom: tried.symptom ?? "",
            order: tried.order ?? null,
            incident_type: tried.incident_type ?? "",
            priority: tried.priority ?? "",
            day: tried.day || null,
            draft: tried.draft ?? null,
          },
        }),
      ),
    enabled: Boolean(tried.order || (tried.asset && tried.symptom)),
    gcTime: 0,
    placeholderData: (before) => before,
  });

export const useTables = () =>
  useQuery({ queryKey: ["tables"], queryFn: () => need(client.GET("/api/v1/tables")) });

export const useTable = (document: string) =>
  useQuery({
    queryKey: keys.table(document),
    queryFn: () => need(client.GET("/api/v1/documents/{document}/table", { params: { path: { document } } })),
  });

/** What follows from a table; until it is read anew, what followed from it before. */
export const useTableFindings = (document: string, etag: string) =>
  useQuery({
    queryKey: ["table", document, "findings", etag],
    queryFn: () =>
      need(client.GET("/api/v1/documents/{document}/table/findings", { params: { path: { document } } })),
    placeholderData: keepPreviousData,
  });

export const useNoticed = (document: string, etag: string) =>
  useQuery({
    queryKey: ["noticed", document, etag],
    queryFn: () =>
      need(client.GET("/api/v1/documents/{document}/affected-orders", { params: { path: { document } } })),
  });

type Across = "symptom" | "incident type";

/** `etag` is that of the draft, so that the map follows what is written. */
export const useCoverage = (across: Across, draft: string | null, etag: string) =>
  useQuery({
    queryKey: ["coverage", across, draft, etag],
    queryFn: () => need(client.GET("/api/v1/coverage", { params: { query: { across, draft } } })),
    placeholderData: (before) => before,
  });

export const useMapCell = (
  across: Across,
  cell: { equipment: string; code: string } | null,
  draft: string | null,
  etag: string,
) =>
  useQuery({
    queryKey: ["coverage", "cell", across, cell, draft, etag],
    queryFn: () =>
      need(
        client.GET("/api/v1/coverage/cell", {
          params: { query: { across, draft, equipment: cell?.equipment ?? "", code: cell?.code ?? "" } },
        }),
      ),
    enabled: cell !== null,
  });

export const useCrew = (document: string | null, on: string | null, withBranches: boolean) =>
  useQuery({
    queryKey: ["crew", document, on, withBranches],
    queryFn: () =>
      need(
        client.GET("/api/v1/documents/{document}/crew", {
          params: {
            path: { document: document ?? "" },
            query: { on: on || undefined, with_branches: withBranches },
          },
        }),
      ),
    enabled: Boolean(document),
    placeholderData: (before) => before,
  });

export const useKit = (document: string | null, goal: number) =>
  useQuery({
    queryKey: ["kit", document, goal],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/kit", {
          params: { path: { document: document ?? "" }, query: { goal } },
        }),
      ),
    enabled: Boolean(document),
    placeholderData: (before) => before,
  });

export const useList = (name: ListName) =>
  useQuery({
    queryKey: ["list", name],
    queryFn: () => need(client.GET("/api/v1/lists/{name}", { params: { path: { name } } })),
  });

export interface OrdersWanted {
  states?: OrderLine["state"][];
  words?: string;
}

/** Orders that are in one of the states, with every word in them somewhere; a page after another. */
export const useOrders = ({ states = [], words = "" }: OrdersWanted, enabled = true) =>
  useInfiniteQuery({
    enabled,
    queryKey: [...keys.orders, states, words],
    queryFn: ({ pageParam }) =>
      need(client.GET("/api/v1/orders", { params: { query: { state: states, words, offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (page, pages) => nextOffset(page.total, pages, (p) => p.rows.length),
    placeholderData: keepPreviousData,
  });

/** The jobs behind a figure, a page after another. */
export const useJobsBehind = (
  document: string,
  wanted: {
    revision?: string;
    plan?: string;
    step?: string;
    line?: string;
    other?: string;
    early?: boolean;
  },
) =>
  useInfiniteQuery({
    queryKey: ["evidence", document, "jobs", wanted],
    queryFn: ({ pageParam }) =>
      need(
        client.GET("/api/v1/incident-types/{document}/jobs", {
          params: { path: { document }, query: { ...wanted, offset: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page, pages) => nextOffset(page.total, pages, (p) => p.jobs.length),
  });

/** Where the next page begins; nothing where there is none. */
export function nextOffset<P>(total: number, pages: P[], length: (page: P) => number): number | undefined {
  const shown = pages.reduce((n, page) => n + length(page), 0);
  return shown < total ? shown : undefined;
}

export const useOrder = (id: string) =>
  useQuery({
    queryKey: keys.order(id),
    queryFn: () => need(client.GET("/api/v1/orders/{order_id}", { params: { path: { order_id: id } } })),
  });

/** What the field recorded beside the steps and waits for the office; of one order where it is named. */
export const useSiteRecords = (order?: string) =>
  useQuery({
    queryKey: [...keys.siteRecords, order ?? ""],
    queryFn: () => need(client.GET("/api/v1/site-records", { params: { query: { order } } })),
  });

/** What devices recorded, jobs could not take in, and nobody has decided on. */
export const useLooseRecords = () =>
  useQuery({ queryKey: keys.loose, queryFn: () => need(client.GET("/api/v1/loose-records")) });

export const useTakingAlong = () =>
  useQuery({ queryKey: keys.takingAlong, queryFn: () => need(client.GET("/api/v1/settings/taking-along")) });

/** What a rule would have a technician's device take along, and what it weighs. */
export const useLoads = (technician: string | null, rule: TakingAlong | null) =>
  useQuery({
    queryKey: [...keys.takingAlong, technician, rule],
    queryFn: () =>
      need(
        client.GET("/api/v1/settings/taking-along/loads", {
          params: { query: { technician: technician ?? "", ...rule } },
        }),
      ),
    enabled: Boolean(technician && rule),
    placeholderData: keepPreviousData,
  });

export const useOrderCard = () =>
  useQuery({ queryKey: keys.orderCard, queryFn: () => need(client.GET("/api/v1/settings/order-card")) });

/** What a card would show of an order. */
export const useCardPreview = (card: OrderCard, order: string | null) =>
  useQuery({
    queryKey: [...keys.orderCard, card, order],
    queryFn: () =>
      need(client.POST("/api/v1/settings/order-card/previews", { body: { card, order: order ?? "" } })),
    enabled: Boolean(order),
    placeholderData: keepPreviousData,
  });

export const useInbox = () =>
  useInfiniteQuery({
    queryKey: keys.inbox,
    queryFn: ({ pageParam }) =>
      need(client.GET("/api/v1/completions", { params: { query: { offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (page, pages) => nextOffset(page.total, pages, (p) => p.rows.length),
  });

export const useListChanges = (name: ListName, code: string | null, shown: boolean) =>
  useQuery({
    queryKey: ["list", name, "changes", code],
    queryFn: () =>
      need(
        client.GET("/api/v1/changes/lists/{name}", {
          params: { path: { name }, query: { code: code ?? undefined } },
        }),
      ),
    enabled: shown,
  });

export const useOrderChanges = (order: string) =>
  useQuery({
    queryKey: ["order", order, "changes"],
    queryFn: () =>
      need(client.GET("/api/v1/changes/orders/{order_id}", { params: { path: { order_id: order } } })),
  });

/** Drafts that were thrown away, newest first. */
export const useDiscarded = () =>
  useQuery({ queryKey: ["discarded"], queryFn: () => need(client.GET("/api/v1/changes/drafts")) });

export const usePeople = () =>
  useQuery({ queryKey: ["people"], queryFn: () => need(client.GET("/api/v1/people")) });

export const useOrderTrace = (order: string) =>
  useQuery({
    queryKey: [...keys.order(order), "trace"],
    queryFn: () =>
      need(client.GET("/api/v1/orders/{order_id}/trace", { params: { path: { order_id: order } } })),
    staleTime: 300_000,
  });

export const usePrograms = () =>
  useQuery({ queryKey: ["programs"], queryFn: () => need(client.GET("/api/v1/programs")) });

export const usePeopleChanges = () =>
  useQuery({ queryKey: ["people", "changes"], queryFn: () => need(client.GET("/api/v1/changes/people")) });

export const useCompletion = (id: string) =>
  useQuery({
    queryKey: ["order", id, "completion"],
    queryFn: () => need(client.GET("/api/v1/completions/{order_id}", { params: { path: { order_id: id } } })),
  });

export const useCache = useQueryClient;

/** Sign out: from then on nobody is signed in, and no answer that comes late says otherwise. */
export function useSignOut(): () => Promise<void> {
  const cache = useQueryClient();
  return async () => {
    watchSession(false);
    try {
      await need(client.DELETE("/api/v1/session"));
    } catch (error) {
      watchSession(true);
      throw error;
    }
    cache.clear();
  };
}
