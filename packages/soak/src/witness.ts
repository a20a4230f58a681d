/**
 * The independent witness: the boards' own log of what they heard and did, and a subscription of its own to every
 * command topic. It knows nothing of the service but the ids in the payloads.
 */
import type { BoardDeed } from "@bold-relay/standins";
import { connect, type MqttClient } from "mqtt";
import { MARK } from "./hostile.ts";
import { SITE } from "./soak-site.ts";

interface Report {
  /** ms since 1970. */
  readonly at: number;
  readonly to: string;
}

/** What was seen, and by whom it was said does not alert here. */
export interface Seen {
  /** Command ids that some board has switched for. */
  readonly switched: ReadonlySet<string>;
  readonly refused: ReadonlySet<string>;
  /** On which channel's command topic each command was written, and how often. */
  readonly written: ReadonlyMap<string, { readonly channel: string; readonly times: number }>;
  /** The command that was written last, by channel. */
  readonly lastWritten: ReadonlyMap<string, string>;
  /** How often a board has heard each command: also what the witness missed while its own connection was down. */
  readonly heard: ReadonlyMap<string, number>;
  /** What each channel was reported to be, and when, by address. */
  readonly reports: ReadonlyMap<string, readonly Report[]>;
  /** What a hostile device user wrote and the broker handed over, by topic. */
  readonly foreign: readonly string[];
}

export class Witness implements Seen {
  readonly switched = new Set<string>();
  readonly refused = new Set<string>();
  readonly written = new Map<string, { readonly channel: string; readonly times: number }>();
  readonly lastWritten = new Map<string, string>();
  readonly heard = new Map<string, number>();
  readonly reports = new Map<string, Report[]>();
  readonly foreign: string[] = [];
  private client: MqttClient | null = null;

  /** Told by every board of each of its deeds. */
  readonly note = ({ deed, id }: BoardDeed): void => {
    if (id === undefined) return;
    if (deed === "switched") this.switched.add(id);
    if (deed === "refused") this.refused.add(id);
    if (deed === "heard") this.heard.set(id, (this.heard.get(id) ?? 0) + 1);
  };

  async listen(
    brokerUrl: string,
    username: string,
    password: string,
    sites: readonly string[] = [SITE],
  ): Promise<void> {
    const client = connect(brokerUrl, { username, password, protocolVersion: 5, reconnectPeriod: 200, keepalive: 3 });
    this.client = client;
    client.on("error", () => {
      // It comes back by itself; what it misses meanwhile the boards may still have heard.
    });
    client.on("message", (topic, payload) => this.receive(topic, payload.toString("utf8")));
    await new Promise<void>((resolve) => {
      const topics = sites.flatMap((site) => [`${site}/+/+/do`, `${site}/+/+/is`]);
      client.on("connect", () => client.subscribe(topics, { qos: 1 }, () => resolve()));
    });
  }

  private receive(topic: string, text: string): void {
    if (text.includes(MARK)) this.foreign.push(topic);
    const address = topic.slice(0, topic.lastIndexOf("/"));
    if (topic.endsWith("/do")) {
      const id = /"id":"([0-9a-f-]{36})"/.exec(text)?.[1];
      if (id === undefined) return;
      this.written.set(id, { channel: address, times: (this.written.get(id)?.times ?? 0) + 1 });
      this.lastWritten.set(address, id);
      return;
    }
    const to = String((JSON.parse(text) as { to: unknown }).to);
    const known = this.reports.get(address);
    if (known) known.push({ at: Date.now(), to });
    else this.reports.set(address, [{ at: Date.now(), to }]);
  }

  async stop(): Promise<void> {
    await this.client?.endAsync(true);
  }
}
