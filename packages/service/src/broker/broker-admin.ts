/**
 * Makes and takes away users at a mosquitto broker, by its dynamic security plugin: commands on a topic of its own, each with
 * correlation data, answered on another. A connection that is there only while it is needed.
 */
import { randomUUID } from "node:crypto";
import { RelayError } from "@bold-relay/core";
import type { BrokerAccess } from "../platform/config/broker-access.ts";
import { BriefConnection } from "./brief-connection.ts";
import type { BrokerConnection } from "./broker-connection.ts";
import { requireGranted } from "./granted.ts";

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
  readonly data?: unknown;
}

export class BrokerAdmin {
  private readonly waiting = new Map<string, (answer: Answer) => void>();
  private readonly connection: BriefConnection;

  /** @param access as a user who may make others */
  constructor(access: BrokerAccess) {
    this.connection = new BriefConnection({
      access,
      clientId: `bold-relay-admin-${randomUUID()}`,
      lingerMs: LINGER_MS,
      onMessage: ({ payload }) => this.receive(Buffer.from(payload)),
      onLost: () => {},
    });
  }

  /**
   * Carries out one command.
   *
   * @param tolerated what the broker may say against it without harm: that it is so already
   * @throws RelayError broker-admin-failed
   */
  async run(command: BrokerCommand, tolerated: readonly string[] = []): Promise<void> {
    await this.ask(command, tolerated);
  }

  /**
   * Carries out one command, and says what the broker answers.
   *
   * @throws RelayError broker-admin-failed
   */
  async ask(command: BrokerCommand, tolerated: readonly string[] = []): Promise<unknown> {
    const connection = await this.connect();
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
    const payload = Buffer.from(JSON.stringify({ commands: [{ ...command, correlationData }] }));
    connection.publish({ topic: COMMANDS, payload, qos: 1 }, () => {});
    const { error, data } = await answered.finally(() => this.connection.release());
    if (error !== undefined && !tolerated.includes(error)) throw failed(`it says: ${error}`);
    return data;
  }

  stop(): Promise<void> {
    return this.connection.close();
  }

  private async connect(): Promise<BrokerConnection> {
    try {
      return await this.connection.get(async (opened) =>
        requireGranted([RESPONSES], await opened.subscribe([RESPONSES], { qos: 1 })),
      );
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
}

function failed(why: string): RelayError {
  return new RelayError("broker-admin-failed", { why });
}
