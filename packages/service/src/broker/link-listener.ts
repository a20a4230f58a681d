/** What the link tells and is told: its topics, what is published, and who listens. */
export interface LinkListener {
  /** Writes reach the broker from now on. */
  onUp(): void;
  onDown(): void;
  /**
   * A message on a subscribed topic; `live` is false for a retained one, `waited` is true for one that the broker has kept while the link was
   * down, or that came before that was certain; `correlation` is what a response names its request by (MQTT 5, 3.3.2.3.6), as text.
   */
  onMessage(topic: string, payload: Uint8Array, live: boolean, waited: boolean, correlation: string | null): void;
  /** Room for another publish after the window was full. */
  onRoom(): void;
}

export interface LinkTopics {
  /** Listened to for as long as the link stands; what we write there ourselves is not handed back (No Local). */
  readonly filters: readonly string[];
  /** Looked at once, on connecting, for retained messages that lie there. */
  readonly retainedProbe: readonly string[];
}

export interface Publication {
  readonly topic: string;
  readonly payload: Uint8Array;
  /** How long the broker may keep it for a subscriber, ms; rounded up to whole seconds, at least 1 (MQTT 5, 3.3.2.3.3). */
  readonly expiryMs: number;
  readonly qos: 0 | 1;
  /** Goes along as a user property (W3C Trace Context for MQTT); null: none. */
  readonly traceparent: string | null;
  /** Where the device answers, and by what it names this (MQTT 5, 4.10). Default: nothing is said of that. */
  readonly response?: { readonly topic: string; readonly correlation: string };
  /** The broker keeps it for whoever subscribes later, until it expires (MQTT 5, 3.3.1.3). */
  readonly retain: boolean;
}
