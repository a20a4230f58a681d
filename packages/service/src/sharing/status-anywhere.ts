/** How the service does as a whole: what each instance counts of the shards that it leads, summed up by the leader of the first. */
import type { StatusView } from "@bold-relay/api";
import type { Peers } from "../peers/peers.ts";
import type { Status } from "../reporting/status.ts";
import type { Shards } from "../requests/shards.ts";
import type { Board } from "../state/board.ts";
import type { DayTally } from "../state/day-tally.ts";
import type { OpenRequests } from "../state/open-requests.ts";
import { shardOfSite } from "../state/site-shards.ts";

/** Of the sites whose shards are led by one instance. */
export type StatusPart = Pick<StatusView, "lastDay" | "broker" | "database"> & { readonly open: number };

export interface StatusDeps {
  readonly board: Board;
  readonly shards: Shards;
  readonly peers: Peers;
  readonly tally: DayTally;
  readonly openRequests: OpenRequests;
  readonly status: Status;
}

type LastDay = StatusView["lastDay"];

const ANSWER_WITHIN_MS = 1_000;
/** Under which the tally has what belongs to no site. */
const NOWHERE = "";

/**
 * @param sites those that may be seen; null: all, with what belongs to none
 * @param nowhereSince until then the instance that asks knows what belongs to no site, ms since 1970
 */
export function statusPart(
  { board, shards, tally, openRequests, status }: StatusDeps,
  sites: readonly string[] | null,
  nowhereSince: number,
): StatusPart {
  const { snapshot } = board;
  const isLed = (site: string) => shards.leads(shardOfSite(snapshot, site));
  const own = snapshot.sites.map(({ slug }) => slug).filter((slug) => isLed(slug) && (sites?.includes(slug) ?? true));
  const isFirst = shards.leads(0);
  const nowhere = sites === null && isFirst ? [NOWHERE] : [];
  const { broker, database } = status.view(sites);
  const channels = snapshot.channels.filter(({ site }) => own.includes(site.slug)).map(({ id }) => id);
  return {
    broker,
    database,
    open: openRequests.openFor(channels).length,
    lastDay: sum(
      tally.lastDay([...own, ...nowhere]),
      sites === null && !isFirst ? tally.lastDayNowhere(nowhereSince) : null,
    ),
  };
}

function sum(one: LastDay, other: LastDay | null): LastDay {
  if (other === null) return one;
  return {
    requests: one.requests + other.requests,
    delivered: one.delivered + other.delivered,
    notDelivered: one.notDelivered + other.notDelivered,
    refused: one.refused + other.refused,
  };
}

/** Of all instances. */
export async function statusOfAll(deps: StatusDeps, sites: readonly string[] | null): Promise<StatusView> {
  const { peers, status } = deps;
  const view = status.view(sites);
  const others = peers.others();
  if (others.length === 0) return view;
  const { nowhereSince } = deps.tally;
  const asked = others.map((peer) =>
    peers.calls.call<StatusPart>(peer, "status", { sites, nowhereSince }, ANSWER_WITHIN_MS),
  );
  const answers = await Promise.allSettled(asked);
  const parts = [
    statusPart(deps, sites, nowhereSince),
    ...answers.flatMap((one) => (one.status === "fulfilled" ? [one.value] : [])),
  ];
  const silent = others.filter((_, index) => answers[index]?.status === "rejected").map(({ name }) => name);
  const broken = parts.find(({ broker }) => !broker.up)?.broker;
  return {
    ...view,
    broker: broken ?? view.broker,
    missing: [...new Set([...view.missing, ...silent])].sort(),
    counts: { ...view.counts, openCommands: parts.reduce((total, { open }) => total + open, 0) },
    lastDay: parts.map(({ lastDay }) => lastDay).reduce((one, other) => sum(one, other)),
  };
}
