/** How a simulated board is set up, and what it notes of its deeds. */
import type { Profile, Value } from "@bold-relay/core";
import type { BoardChannel } from "./orders.ts";

/**
 * - silent: hears, does nothing · slow: takes its time · refusing: says no · lying: says done, does nothing ·
 * - doubling: does and says everything twice · reordering: answers in any order, late
 * - unplugged: off the broker, last will sent
 */

export const FAULTS = ["none", "silent", "slow", "refusing", "lying", "doubling", "reordering", "unplugged"] as const;

export type Fault = (typeof FAULTS)[number];

export interface RelayBoardOptions {
  readonly brokerUrl: string;
  /** File with the certificate of whoever signed the broker's, PEM; for mqtts:// */
  readonly brokerCa?: string;
  readonly username?: string;
  readonly password?: string;
  readonly site: string;
  readonly device: string;
  /** Their names, or what is known of each. */
  readonly channels: readonly (string | BoardChannel)[];
  /** What it speaks; default: our own form for new devices. */
  readonly profile?: Profile;
  /** How often it asks whether its broker is still there while it says nothing else (MQTT 3.1.1, 3.1.2.10), s; default 10. */
  readonly keepaliveS?: number;
  /** How long a switching takes, ms; default 0. */
  readonly switchMs?: number;
  /** How long it takes while slow, ms; default 1500. */
  readonly slowMs?: number;
  /** What its contacts were when it was last switched off; default: all off. */
  readonly contacts?: Readonly<Record<string, Value>>;
  /** Told whenever a contact moved, for whoever keeps its memory. */
  readonly onMoved?: () => void;
  /** Told of each of its deeds, for a witness who keeps more than the board itself does. */
  readonly onDeed?: (deed: BoardDeed) => void;
  /** Nothing is written to standard error when its line breaks: somebody breaks it on purpose. */
  readonly quiet?: boolean;
  /** It reports only when a contact moved. Default false. */
  readonly onlyChanges?: boolean;
  /** Whether it reports what its channels are; one that does not can only acknowledge. Default true. */
  readonly reports?: boolean;
  /** `json`: with ids and causes; `word`: bare words. Default json. */
  readonly speaks?: "json" | "word";
  /** All of its channels answer on one topic, `<site>/<device>/done`. Default false. */
  readonly oneAnswerTopic?: boolean;
  /** Everything is off after a power cut; else it is as it was. Default false. */
  readonly forgets?: boolean;
}

/** One line of the board's own log: what it heard and did, whatever it told. */
export interface BoardDeed {
  readonly at: number;
  readonly channel: string;
  readonly deed: "heard" | "switched" | "refused" | "flipped" | "timed-off" | "powered-up";
  readonly id?: string;
  readonly to?: Value;
}
