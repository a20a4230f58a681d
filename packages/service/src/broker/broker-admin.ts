/**
 * Makes and takes away users at a mosquitto broker, by its dynamic security plugin: commands on a topic of its own, each with
 * correlation data, answered on another. A connection that is there only while it is needed.
 */
import { randomUUID } from "node:crypto";
import { RelayError } from "@bold-relay/core";
import { connectAsync, type MqttClient } from "mqtt";
import type { BrokerAccess } from "../platform/config/broker-access.ts";

const COMMANDS = "$CONTROL/dynamic-security/v1";
const RESPONSES = "$CONTROL/dynamic-security/v1/response";
const WITHIN_MS = 5_000;
const LINGER_MS = 5_000;

export interface BrokerCommand {
  readonly command: string;
  readonly [name: string]: unknown;
}

interface Answer {
  readonly correlationData?: string;
  readonly error?: string;
}

export class BrokerAdmin {
  private readonly access: BrokerAccess;
  private readonly waiting = new Map<string, (answer: Answer) => void>();
  private connecting: Promise<MqttClient> | null = null;
  private closing: NodeJS.Timeout | null = null;

  /** @param access as a user who may make others */
  constructor(access: BrokerAccess) {
    this.access = access;
  }

  /**
   * Carries out one command.
   *
   * @param tolerated what the broker may say against it without harm: that it is so already
   * @throws RelayError broker-admin-failed
   */
  async run(command: BrokerCommand, tolerated: readonly string[] = []): Promise<void> {
    const client = await this.client();
    const correlationData = randomUUID();
    const answered = new Promise<Answer>((resolve, reject) => {
      const timer = setTimeout(() => {
        this.waiting.delete(correlationData);
        reject(failed(`it did not answer within ${WITHIN_MS / 1000} s. Is its dynamic security plugin loaded?`));
      }, WITHIN_MS);
      this.waiting.set(correlationData, (answer) => {
        clearTimeout(timer);
        resolve(answer);
      });
    });
    await client.publishAsync(COMMANDS, JSON.stringify({ commands: [{ ...command, correlationData }] }), { qos: 1 });
    const { error } = await answered;
    this.closeLater();
    if (error !== undefined && !tolerated.includes(error)) throw failed(`it says: ${error}`);
  }

  async stop(): Promise<void> {
    if (this.closing) clearTimeout(this.closing);
    const client = await this.connecting?.catch(() => null);
    this.connecting = null;
    await client?.endAsync(true);
  }

  private client(): Promise<MqttClient> {
    if (this.closing) clearTimeout(this.closing);
    this.connecting ??= this.connect().catch((error: unknown) => {
      this.connecting = null;
      throw error;
    });
    return this.connecting;
  }

  private async connect(): Promise<MqttClient> {
    try {
      const client = await connectAsync(this.access.url, {
        ...this.access,
        protocolVersion: 5,
        connectTimeout: WITHIN_MS,
        reconnectPeriod: 0,
      });
      (client.stream as { setNoDelay?: (on: boolean) => void }).setNoDelay?.(true);
      client.on("error", () => {});
      client.on("close", () => {
        this.connecting = null;
      });
      client.on("message", (_topic, payload) => this.receive(payload));
      await client.subscribeAsync(RESPONSES, { qos: 1 });
      return client;
    } catch (error) {
      throw failed(`it does not let its admin user in (${(error as Error).message})`);
    }
  }

  private receive(payload: Buffer): void {
    const { responses = [] } = JSON.parse(payload.toString("utf8")) as { responses?: Answer[] };
    for (const answer of responses) {
      const wake = this.waiting.get(answer.correlationData ?? "");
      this.waiting.delete(answer.correlationData ?? "");
      wake?.(answer);
    }
  }

  private closeLater(): void {
    if (this.closing) clearTimeout(this.closing);
    this.closing = setTimeout(() => void this.stop(), LINGER_MS).unref();
  }
}

function failed(why: string): RelayError {
  return new RelayError("broker-admin-failed", { why });
}
