/** What the pages read from the service, each under one name in the cache. */
import {
  type BoardView,
  type ChannelView,
  type CommissioningView,
  createClient,
  type DescriptionKind,
  type LogQuery,
  ProblemError,
  type SessionView,
  type StatisticsQuery,
} from "@bold-relay/api";
import { type Right, type Role, sitesWith } from "@bold-relay/core";
import { keepPreviousData, type QueryClient, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { BoardReader, withChannel } from "../live/board-cache.ts";

/** The console lives at the service's own address and has a session cookie. */
export const client = createClient({ baseUrl: "" });

const board = new BoardReader(() => client.board());

export const names = {
  session: ["session"],
  account: ["account"],
  board: ["board"],
  status: ["status"],
  devices: ["devices"],
  sites: ["sites"],
  versions: ["versions"],
  commissionings: (device: string) => ["devices", device],
  log: ["log"],
  trace: (request: string) => ["trace", request],
  day: (channel: string) => ["day", channel],
  alerts: ["alerts"],
  statistics: ["statistics"],
  inlets: ["inlets"],
  notifications: ["notifications"],
  team: ["team"],
} as const;

/** The member who is signed in; null when nobody is. */
export function useSession(): { isPending: boolean; data: SessionView | null; trouble: string | null } {
  const { data, isPending, error } = useQuery({
    queryKey: names.session,
    retry: false,
    queryFn: async () => {
      try {
        return await client.session();
      } catch (error) {
        if (error instanceof ProblemError && error.problem.code === "not-signed-in") return null;
        throw error;
      }
    },
  });
  return { isPending, data: data ?? null, trouble: error?.message ?? null };
}

export function useBoard() {
  return useQuery({ queryKey: names.board, queryFn: () => board.read(), staleTime: Number.POSITIVE_INFINITY });
}

export function useStatus() {
  return useQuery({ queryKey: names.status, queryFn: () => client.status(), refetchInterval: 10_000 });
}

/** The journal, page after page, newest first. What was read stays on the screen while another filter is read. */
export function useLog(query: Omit<LogQuery, "before">) {
  return useInfiniteQuery({
    queryKey: [...names.log, query],
    queryFn: ({ pageParam }) => client.log(pageParam === null ? query : { ...query, before: pageParam }),
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
}

export function useTrace(request: string) {
  return useQuery({ queryKey: names.trace(request), queryFn: () => client.trace(request) });
}

/** The last 24 hours of a channel, in this browser's time zone. */
export function useHistory(channel: string) {
  const { timeZone } = Intl.DateTimeFormat().resolvedOptions();
  return useQuery({ queryKey: names.day(channel), queryFn: () => client.history(channel, timeZone) });
}

/** What a channel was over a longer time. */
export function useTrend(channel: string, days: number) {
  return useQuery({
    queryKey: [...names.day(channel), "history", days],
    queryFn: () => client.trend(channel, days),
    placeholderData: keepPreviousData,
    refetchInterval: 30_000,
  });
}

export function useDevices() {
  return useQuery({ queryKey: names.devices, queryFn: () => client.devices(), refetchInterval: 5_000 });
}

export function useProfiles() {
  return useQuery({ queryKey: ["profiles"], queryFn: () => client.profiles() });
}

/** The run that stands and those before it; asked often while a step is under way. */
export function useCommissionings(device: string) {
  return useQuery({
    queryKey: names.commissionings(device),
    queryFn: () => client.commissionings(device),
    refetchInterval: ({ state }) => (isMoving(state.data?.[0]) ? 400 : 5_000),
  });
}

function isMoving(run: CommissioningView | undefined): boolean {
  return run !== undefined && (run.steps[0]?.state === "waiting" || run.steps.some(({ state }) => state === "running"));
}

/** How many alerts are open, for whoever may see them. */
export function useOpenAlerts(enabled: boolean): number {
  const { data } = useQuery({
    queryKey: [...names.alerts, "open"],
    queryFn: () => client.alerts(),
    enabled,
    refetchInterval: 60_000,
  });
  return data?.length ?? 0;
}

/** Alerts, resolved and snoozed ones too. */
export function useAlerts() {
  return useQuery({ queryKey: names.alerts, queryFn: () => client.alerts(true), refetchInterval: 60_000 });
}

/** How well it runs; what was read stays on the screen while other days are read. */
export function useStatistics(query: StatisticsQuery) {
  return useQuery({
    queryKey: [...names.statistics, query],
    queryFn: () => client.statistics(query),
    placeholderData: keepPreviousData,
    refetchInterval: 15_000,
  });
}

/** The JSON Schema of a kind of description: it does not change while this console is open. */
export function useSchema(kind: DescriptionKind | null): object | undefined {
  const { data } = useQuery({
    queryKey: ["schemas", kind],
    queryFn: () => (kind === null ? null : client.schema(kind)),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data ?? undefined;
}

/** A site as it is described, with its version. */
export function useSite(slug: string) {
  return useQuery({ queryKey: [...names.sites, slug], queryFn: () => client.site(slug), refetchOnWindowFocus: false });
}

/** The versions of a description that are kept. @param version that is in effect: read again when it is another */
export function useVersions(kind: DescriptionKind, slug: string, version: number) {
  return useQuery({
    queryKey: [...names.versions, kind, slug, version],
    queryFn: () => client.versions(kind, slug),
    placeholderData: keepPreviousData,
  });
}

export function useInlets() {
  return useQuery({ queryKey: names.inlets, queryFn: () => client.inlets(), refetchInterval: 5_000 });
}

export function useInlet(slug: string) {
  return useQuery({
    queryKey: [...names.inlets, slug],
    queryFn: () => client.inlet(slug),
    refetchOnWindowFocus: false,
  });
}

export function useNotifications() {
  return useQuery({ queryKey: names.notifications, queryFn: () => client.notifications() });
}

/** What a notification has told, read again while somebody looks. */
export function useNotificationLog(slug: string) {
  return useQuery({
    queryKey: [...names.notifications, slug],
    queryFn: () => client.notificationLog(slug),
    refetchInterval: 3_000,
  });
}

export function useMembers() {
  return useQuery({ queryKey: [...names.team, "members"], queryFn: () => client.members() });
}

export function useKeys() {
  return useQuery({ queryKey: [...names.team, "keys"], queryFn: () => client.keys(), retry: false });
}

export function useAudit() {
  return useQuery({ queryKey: [...names.team, "audit"], queryFn: () => client.audit() });
}

/** The id of who is signed in. */
export function useMemberId(): number | null {
  return useSession().data?.id ?? null;
}

/** Who is signed in, for pages that only exist when somebody is. */
export function useMemberName(): string | null {
  return useSession().data?.name ?? null;
}

/**
 * Whether the member has a right.
 *
 * @param site at this one; left out: anywhere
 */
export function useMay(right: Right, site?: string): boolean {
  const { data: session } = useSession();
  if (!session) return false;
  const { role, sites } = session;
  const standing = { team: sites === null ? role : null, sites: sitesOf(session) };
  const where = sitesWith(standing, right);
  return site === undefined ? where?.length !== 0 : where === null || where.includes(site);
}

function sitesOf({ sites }: SessionView): Record<string, Role> {
  return Object.fromEntries((sites ?? []).map((one) => [one.site, one.role]));
}

/** Signs out, here and at the service. */
export function useSignOut(): () => Promise<void> {
  const queries = useQueryClient();
  return async () => {
    await client.signOut().catch(() => {
      // Without an answer the session may live on at the service until it expires; here it is over.
    });
    queries.setQueryData(names.session, null);
    // Nothing that was read under this session is left for the next one.
    queries.removeQueries({ predicate: ({ queryKey }) => queryKey[0] !== names.session[0] });
  };
}

/** Puts one channel in its place on the board, whether it was read or is being read. */
export function placeChannel(queries: QueryClient, channel: ChannelView): void {
  board.changed(channel);
  queries.setQueryData<BoardView>(names.board, (known) => known && withChannel(known, channel));
}
