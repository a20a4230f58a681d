/** What switches channels without being asked: rules of their descriptions, and interlocks. */
import type { ChannelEntry } from "../site/entry.ts";
import type { Snapshot } from "../site/snapshot.ts";
import type { MapAsker, MapCatch } from "./element.ts";
import type { TargetFinder } from "./target-finder.ts";
import { ruleWay } from "./way.ts";

interface Rule {
  /** As requests name it. */
  readonly name: string;
  readonly note: string;
  readonly action: string;
  /** Its commands are part of the request that they serve, and are counted with that. */
  readonly withRequest?: true;
  readonly applies: (channel: ChannelEntry, snapshot: Snapshot) => boolean;
}

const RULES: readonly Rule[] = [
  {
    name: "auto-off",
    note: "its longest time on is over",
    action: "off",
    applies: ({ policy }) => policy.autoOffMs !== null,
  },
  {
    name: "end of hold",
    note: "the hold was not renewed",
    action: "stop",
    applies: ({ policy }) => policy.holdForMs !== null,
  },
  {
    name: "power-up",
    note: "the device was powered up",
    action: "as before, or safe",
    applies: ({ policy }) => policy.powerUp !== "keep",
  },
  {
    name: "interlock",
    note: "another channel of its interlock is asked for",
    action: "off",
    withRequest: true,
    applies: ({ id }, { interlocks }) => (interlocks.get(id) ?? []).some(({ meets }) => meets === "switch-off"),
  },
];

const SERVICE: MapAsker = {
  id: "rule:service",
  kind: "rule",
  name: "Rules of the service",
  note: "",
  inlet: null,
  anybody: false,
};

export function ruleCatches(snapshot: Snapshot, channels: readonly ChannelEntry[], finder: TargetFinder): MapCatch[] {
  return RULES.flatMap(({ name, note, action, withRequest, applies }) => {
    const ruled = channels.filter((channel) => applies(channel, snapshot));
    if (ruled.length === 0) return [];
    const target = finder.some(`rule:${name}`, `Channels with ${name}`, ruled);
    return [
      {
        id: `rule:${name}`,
        kind: "rule" as const,
        name: `Rule ${name}`,
        note,
        inlet: null,
        site: null,
        route: null,
        topic: null,
        way: withRequest ? null : ruleWay(name),
        paused: false,
        askers: [SERVICE],
        reaches: [{ target, action }],
      },
    ];
  });
}
