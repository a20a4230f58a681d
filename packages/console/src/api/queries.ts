/** What pages other than the Board read from the service, each under one name in the cache. */
import type { CommissioningView, DescriptionKind, LogQuery, MapQuery, StatisticsQuery } from "@bold-relay/api";
import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { client } from "./client.ts";
import { names } from "./operate.ts";

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

/** The last 24 hours of a channel, in this browser's time zone: the newest page of entries first. */
export function useHistory(channel: string) {
  const { timeZone } = Intl.DateTimeFormat().resolvedOptions();
  return useInfiniteQuery({
    queryKey: names.day(channel),
    queryFn: ({ pageParam }) =>
      client.history(channel, { zone: timeZone, ...(pageParam !== null && { before: pageParam }) }),
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.older,
  });
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

/** The map as a drawing; what was read stays on the screen while another part is read. */
export function useMap(query: MapQuery) {
  return useQuery({
    queryKey: [...names.map, "drawing", query],
    queryFn: () => client.map(query),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** The same as a table, with how often each way was used. */
export function useMapReach(query: MapQuery) {
  return useQuery({
    queryKey: [...names.map, "reach", query],
    queryFn: () => client.mapReach(query),
    placeholderData: keepPreviousData,
    refetchInterval: 15_000,
    retry: false,
  });
}

export function useMapFindings(site: string | undefined) {
  return useQuery({
    queryKey: [...names.map, "findings", site],
    queryFn: () => client.mapFindings(site === undefined ? {} : { site }),
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
