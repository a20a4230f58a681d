import { overlap } from "../../site/filter.ts";
import type { Finding } from "../../site/finding.ts";
import { listenProblem, routeFilter, type TopicListener, type TopicPicture } from "../../site/topic-right.ts";
import type { InletDescription } from "../model.ts";
import type { InletKindForm } from "./kind.ts";

export const topic: InletKindForm = {
  about: "messages on MQTT topics",
  perMinute: 6_000,
  draft: {
    routes: [
      {
        name: "buttons",
        when: { topic: "buttons/{room}/{lamp}" },
        do: { target: "{room}/{lamp}", action: "{payload}", map: { payload: { table: { "1": "on", "0": "off" } } } },
      },
    ],
  },
  example: { topic: "buttons/wren/porch", text: "1" },
  typed: [
    ["topic", "Topic"],
    ["text", "Payload"],
  ],
  foreign: true,
  keyless: true,
  findings(inlet, { snapshot, others, tellers, reserved }) {
    const { routes = [] } = inlet;
    if (!routes.some(({ when }) => "topic" in when))
      return [{ level: "wrong", at: "routes", text: "needs a route with a topic: else it hears nothing." }];
    const picture = { snapshot, listeners: others.flatMap(topicListener), tellers, reserved };
    return routes.flatMap(({ when }, index): Finding[] => {
      const problem = "topic" in when ? problemOf(routeFilter(when.topic), inlet, picture) : null;
      return problem === null ? [] : [{ level: "wrong", at: `routes[${index}].when.topic`, text: `${problem}.` }];
    });
  },
  place: () => "its topics",
  caller({ routes = [] }) {
    const [first = "buttons/wren/porch"] = routes.flatMap(({ when }) => ("topic" in when ? when.topic : []));
    return `mosquitto_pub -q 1 -t '${first.replace(/\{(\w+)\}/g, "$1")}' -m 1`;
  },
  catches: "topic",
  proof: "none",
};

/** Where a topic inlet listens; nothing of any other kind. */
export function topicListener({ slug, site, kind, routes = [] }: InletDescription): TopicListener[] {
  if (kind !== "topic") return [];
  const filters = routes.flatMap(({ when }) => ("topic" in when ? routeFilter(when.topic) : []));
  return [{ slug, site, filters: [...new Set(filters)] }];
}

/** A command that comes back as a request would go round and round; and what belongs to others is not for this inlet to hear. */
function problemOf(filter: string, inlet: InletDescription, picture: TopicPicture): string | null {
  const own = picture.snapshot.doFilters.find((one) => overlap(one, filter));
  if (own === undefined) return listenProblem(picture, inlet, filter);
  return `overlaps ${own}, on which the service itself writes commands: they would come back as requests`;
}
