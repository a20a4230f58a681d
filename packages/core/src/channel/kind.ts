/** What a kind of channel is: which actions it takes, and which absolute value each asks for. */

/** An absolute setpoint. Relays and lights know two. */
export type Value = "on" | "off";

/** Whether a decoded payload is a value that a channel can have. */
export function isValue(candidate: unknown): candidate is Value {
  return candidate === "on" || candidate === "off";
}

export interface ChannelKind {
  readonly name: string;
  /** One line for help and documents. */
  readonly about: string;
  /** Actions that may be asked, with the absolute value each stands for. */
  readonly actions: Readonly<Record<string, Value>>;
}
