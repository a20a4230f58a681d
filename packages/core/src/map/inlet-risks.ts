/** What of inlets somebody should look at, told by their descriptions alone. */
import type { InletDescription } from "../inlet/model.ts";
import { routeFilter } from "../site/topic-right.ts";
import { FilterTree } from "./filter-tree.ts";

interface TopicRoute {
  readonly inlet: InletDescription;
  /** Its place among the inlet's, from 1. */
  readonly place: number;
  readonly filter: string;
}

/** Two routes of different inlets that one message on the broker reaches, and that both act. */
export interface CaughtTwice {
  readonly route: TopicRoute;
  readonly other: TopicRoute;
}

/** Each route that shares messages with one of an inlet before it. */
export function caughtTwice(inlets: readonly InletDescription[]): CaughtTwice[] {
  const before = new FilterTree<TopicRoute>();
  return inlets.flatMap((inlet) => {
    const own = topicRoutes(inlet);
    const found = own.flatMap((route): CaughtTwice[] => {
      const [other] = before.overlapping(route.filter);
      return other ? [{ route, other }] : [];
    });
    for (const route of own) before.add(route.filter, route);
    return found;
  });
}

function topicRoutes(inlet: InletDescription): TopicRoute[] {
  return (inlet.routes ?? []).flatMap(({ when, do: deed }, index) =>
    "topic" in when && !("ignore" in deed) ? [{ inlet, place: index + 1, filter: routeFilter(when.topic) }] : [],
  );
}

/** Whether any sender in any room may ask there. */
export function isOpenToAnyone({ senders = [] }: Pick<InletDescription, "senders">): boolean {
  return senders.some((sender) => sender === "*" || sender === "*/*");
}
