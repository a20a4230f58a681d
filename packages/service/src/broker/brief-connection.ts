/** A connection of its own to the broker that is there only while it is needed: opened when asked for, closed after a while. */
import type { IPublishPacket } from "mqtt-packet";
import type { BrokerAccess } from "../platform/config/broker-access.ts";
import { BrokerConnection } from "./broker-connection.ts";
import type { Publish } from "./frames.ts";

export interface BriefConnectionOptions {
  readonly access: BrokerAccess;
  readonly clientId: string;
  /** How long it stays when nobody needs it any more, ms. */
  readonly lingerMs: number;
  readonly onMessage: (message: IPublishPacket) => void;
  /** It ended, and nobody here ended it. */
  readonly onLost: (why: string) => void;
}

/** Larger messages are not for people to read; the broker leaves them out, bytes. */
const LARGEST_BYTES = 1_048_576;
/** How many messages at QoS 1 may be on their way to us. */
const AT_ONCE = 100;

export class BriefConnection {
  private readonly options: BriefConnectionOptions;
  private connecting: Promise<BrokerConnection> | null = null;
  private closing: NodeJS.Timeout | null = null;
  private current: BrokerConnection | null = null;
  /** Who waits for a receipt, by the connection that it would come on. */
  private readonly waiting = new Map<(error: Error) => void, BrokerConnection>();

  constructor(options: BriefConnectionOptions) {
    this.options = options;
  }

  /** The connection as it stands; null: there is none, and none is being made. */
  get standing(): Promise<BrokerConnection> | null {
    return this.connecting;
  }

  /**
   * @param opened done once with each new connection, before anybody gets it
   * @throws Error when the broker does not let us in
   */
  get(opened: (connection: BrokerConnection) => Promise<void> = async () => {}): Promise<BrokerConnection> {
    if (this.closing) clearTimeout(this.closing);
    this.closing = null;
    this.connecting ??= this.open(opened);
    return this.connecting;
  }

  /** Closes it after a while, unless it is asked for again. */
  release(): void {
    if (this.closing || !this.connecting) return;
    this.closing = setTimeout(() => void this.close(), this.options.lingerMs);
    this.closing.unref();
  }

  /**
   * @param withinMs how long the broker may take to receipt it at QoS 1
   * @throws Error when it does not, or refuses it (from reason code 128 on, MQTT 5, 3.4.2.1)
   */
  async publish(connection: BrokerConnection, message: Publish, withinMs: number): Promise<void> {
    if (message.qos === 0) return connection.publish(message, () => {});
    const reason = await new Promise<number>((resolve, reject) => {
      const failed = (error: Error) => {
        clearTimeout(timer);
        this.waiting.delete(failed);
        reject(error);
      };
      const timer = setTimeout(() => failed(new Error("the broker did not take it in time")), withinMs);
      this.waiting.set(failed, connection);
      if (!connection.isOpen) return failed(new Error("the broker closed the connection"));
      connection.publish(message, (code) => {
        clearTimeout(timer);
        this.waiting.delete(failed);
        resolve(code);
      });
    });
    if (reason >= 128) throw new Error(`the broker refuses it (reason ${reason})`);
  }

  async close(): Promise<void> {
    if (this.closing) clearTimeout(this.closing);
    this.closing = null;
    const { connecting } = this;
    this.connecting = null;
    this.current = null;
    const connection = await connecting?.catch(() => null);
    await connection?.close();
  }

  private async open(opened: (connection: BrokerConnection) => Promise<void>): Promise<BrokerConnection> {
    const { access, clientId, onMessage } = this.options;
    try {
      const connection = await BrokerConnection.connect(
        { access, clientId, sessionExpiryS: 0, receiveMaximum: AT_ONCE, largestBytes: LARGEST_BYTES },
        {
          onMessage: (message, on) => {
            onMessage(message);
            if (message.qos > 0) on.acknowledge(message.messageId ?? 0);
          },
          onClose: (why, connection) => this.over(why, connection),
        },
      );
      this.current = connection;
      await opened(connection);
      return connection;
    } catch (error) {
      this.connecting = null;
      throw error;
    }
  }

  private over(why: string, connection: BrokerConnection): void {
    for (const [failed, on] of [...this.waiting]) if (on === connection) failed(new Error(why));
    // Closed by us: by now there may be another one.
    if (connection !== this.current) return;
    this.current = null;
    this.connecting = null;
    this.options.onLost(why);
  }
}
