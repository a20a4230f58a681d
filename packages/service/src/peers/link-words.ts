/** What goes over a link between two instances: lists of calls one way, lists of answers the other way. */
import type { ErrorCode, ErrorFacts } from "@bold-relay/core";

/** Where an instance opens a link to another one: a WebSocket (RFC 6455). */
export const LINK_PATH = "/internal/link";

/** The number that is used once of whoever opens a link; in the answer that of the other side, and its proof. */
export const LINK_HEADER = "bold-relay-link";

/**
 * What is spoken over a link, as subprotocols of the WebSocket (RFC 6455, 1.9), the best first. Whoever opens it names all that it can
 * speak. A version that speaks another one keeps this one for as long as instances of the version before may run beside it.
 */
export const LINK_PROTOCOLS: readonly string[] = ["bold-relay-link-1"];

export interface LinkCall {
  /** Of this link; the answer has it too. */
  readonly id: number;
  readonly verb: string;
  readonly body: unknown;
}

export type LinkAnswer =
  | { readonly id: number; readonly answer: unknown }
  | { readonly id: number; readonly problem: LinkProblem }
  /** The instance does not lead what it was asked for: it can be asked again elsewhere. */
  | { readonly id: number; readonly isElsewhere: true }
  /** The instance answers what it was asked, and nothing else. */
  | { readonly leaving: true };

/** An error as it goes from one instance to another. */
interface LinkProblem {
  readonly code: ErrorCode;
  readonly facts: ErrorFacts;
}

/** Largest call or answer, and about the largest list of them, bytes. */
export const MOST_FRAME_BYTES = 8_000_000;
const FULL_BYTES = 256_000;

/** Gathers texts that go the same way in one turn of the event loop: they share one write. */
export class Gathered {
  private texts: string[] = [];
  private bytes = 0;
  private isDue = false;
  private readonly write: (list: string) => void;

  /** @param write takes a JSON array */
  constructor(write: (list: string) => void) {
    this.write = write;
  }

  /** @param text as JSON */
  add(text: string): void {
    this.texts.push(text);
    this.bytes += text.length;
    if (this.bytes > FULL_BYTES) return this.flush();
    if (this.isDue) return;
    this.isDue = true;
    setImmediate(() => {
      this.isDue = false;
      this.flush();
    });
  }

  flush(): void {
    const { texts } = this;
    if (texts.length === 0) return;
    this.texts = [];
    this.bytes = 0;
    this.write(`[${texts.join(",")}]`);
  }
}
