/** What of inlets somebody should look at, told by their descriptions alone. */
import { eventOf, eventWords, inputLevels } from "../inlet/input.ts";
import type { InletDescription } from "../inlet/model.ts";
import { routeFilter } from "../site/topic-right.ts";
import { FilterTree } from "./filter-tree.ts";

interface SharedRoute {
  readonly inlet: InletDescription;
  /** Its place among the inlet's, from 1. */
  readonly place: number;
  /** What it catches, in words: a filter of topics, or an input and what it does. */
  readonly filter: string;
}

/** Two routes of different inlets that one message on the broker or one press reaches, and that both act. */
export interface CaughtTwice {
  readonly route: SharedRoute;
  readonly other: SharedRoute;
}

/** Each route that shares messages or presses with one of an inlet before it. */
export function caughtTwice(inlets: readonly InletDescription[]): CaughtTwice[] {
  const before = new FilterTree<SharedRoute>();
  return inlets.flatMap((inlet) => {
    const own = sharedRoutes(inlet);
    const found = own.flatMap(({ route, key }): CaughtTwice[] => {
      const [other] = before.overlapping(key);
      return other ? [{ route, other }] : [];
    });
    for (const { route, key } of own) before.add(key, route);
    return found;
  });
}

/** No topic begins so (MQTT 5, 1.5.4): inputs and topics are told apart by it. */
const INPUT = "\u0000input";

/** @returns `key`: two routes whose keys overlap, as filters do, share what they catch */
function sharedRoutes(inlet: InletDescription): { readonly route: SharedRoute; readonly key: string }[] {
  const { routes = [], site } = inlet;
  return routes.flatMap(({ when, do: deed }, index) => {
    const of = (filter: string, key: string) => [{ route: { inlet, place: index + 1, filter }, key }];
    if ("ignore" in deed) return [];
    if ("topic" in when) return of(routeFilter(when.topic), routeFilter(when.topic));
    if (!("channel" in when)) return [];
    const [first = "+", ...rest] = inputLevels(when.channel);
    const levels = [first === "+" && site !== null ? site : first, ...rest].join("/");
    const event = eventOf(when);
    return of(`${when.channel} ${eventWords(event)}`, `${INPUT}/${routeFilter(levels)}/${event}`);
  });
}

/** Whether any sender in any room may ask there. */
export function isOpenToAnyone({ senders = [] }: Pick<InletDescription, "senders">): boolean {
  return senders.some((sender) => sender === "*" || sender === "*/*");
}
