/**
 * What a link is subscribed to, over all its connections: the broker keeps the session of one that has ended for a while. What is listened to
 * may change at any moment, also while a connection is being made: none is left out then, and none stays.
 */
import type { BrokerConnection } from "./broker-connection.ts";
import { requireGranted } from "./granted.ts";
import type { LinkTopics } from "./link-listener.ts";

export class Subscriptions {
  private topics: LinkTopics = { filters: [], retainedProbe: [] };
  /** Filters that the broker's session may still have, and that are not wanted any more. */
  private readonly stale = new Set<string>();
  /** Filters that are to be asked for anew on the connection that is being made. */
  private readonly renewed = new Set<string>();
  /** The connection that has what is listened to: a change is asked for at once. */
  private standing: BrokerConnection | null = null;

  /** Before a link starts. */
  begin(topics: LinkTopics): void {
    this.topics = topics;
  }

  /**
   * Listens to other topics from now on.
   *
   * @param again which filters are asked for anew although they stand, so that what lies retained on them comes again
   */
  change(topics: LinkTopics, again: (filter: string) => boolean, onTrouble: (error: Error) => void): void {
    const before = new Set(this.topics.filters);
    this.topics = topics;
    const now = new Set(topics.filters);
    const gone = [...before].filter((filter) => !now.has(filter));
    for (const filter of gone) this.stale.add(filter);
    const { standing } = this;
    if (standing === null) {
      for (const filter of topics.filters) if (again(filter)) this.renewed.add(filter);
      return;
    }
    const wanted = topics.filters.filter((filter) => !before.has(filter) || again(filter));
    // They stay stale until the broker has said that they are gone: the connection may end before.
    if (gone.length > 0) this.drop(standing, gone).catch(onTrouble);
    if (wanted.length > 0) subscribe(standing, wanted).catch(onTrouble);
  }

  /**
   * Subscribes a new connection.
   *
   * @throws Error when it ends meanwhile, or the broker does not permit a filter
   */
  async takeOn(connection: BrokerConnection): Promise<void> {
    await this.probeRetained(connection);
    let asked: ReadonlySet<string> = new Set();
    this.renewed.clear();
    for (let topics: LinkTopics | null = null; topics !== this.topics; ) {
      topics = this.topics;
      const listened = new Set(topics.filters);
      const wanted = topics.filters.filter((filter) => !asked.has(filter) || this.renewed.has(filter));
      this.renewed.clear();
      await this.dropStale(connection, listened);
      if (wanted.length > 0) await subscribe(connection, wanted);
      asked = listened;
    }
    if (connection.isOpen) this.standing = connection;
  }

  /** The connection has ended. */
  lose(): void {
    this.standing = null;
  }

  /** Nobody else listens while we do (MQTT 5, 3.4.2.1): so a glance at the command topics ends before the first write. */
  private async probeRetained(connection: BrokerConnection): Promise<void> {
    const { filters, retainedProbe } = this.topics;
    const listened = new Set(filters);
    const seen = retainedProbe.filter((filter) => !listened.has(filter));
    if (seen.length === 0) return;
    await connection.subscribe(seen, { qos: 0, noLocal: true });
    await connection.unsubscribe(seen);
  }

  /** Those that cannot be dropped now are dropped at the next connection. */
  private async dropStale(connection: BrokerConnection, listened: ReadonlySet<string>): Promise<void> {
    // Now, for what becomes stale while the broker is asked is dropped in the next turn.
    for (const filter of listened) this.stale.delete(filter);
    if (this.stale.size > 0) await this.drop(connection, [...this.stale]);
  }

  private async drop(connection: BrokerConnection, filters: readonly string[]): Promise<void> {
    await connection.unsubscribe(filters);
    for (const filter of filters) this.stale.delete(filter);
  }
}

/** @throws Error when the broker does not permit one of them */
async function subscribe(connection: BrokerConnection, filters: readonly string[]): Promise<void> {
  requireGranted(filters, await connection.subscribe(filters, { qos: 1, noLocal: true }));
}
