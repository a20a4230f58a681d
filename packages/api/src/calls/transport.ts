/** How a call gets to the service and its answer back: `fetch`, unless who makes the client has something lighter. */

export interface OutgoingCall {
  readonly method: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body?: string;
  readonly signal?: AbortSignal;
}

export interface IncomingAnswer {
  readonly status: number;
  /** null: the answer has no such header. @param name in small letters */
  header(name: string): string | null;
  /** The whole body. Once, and not beside `pieces`. */
  text(): Promise<string>;
  /** The body as it comes. */
  pieces(): AsyncIterable<Uint8Array>;
}

/** Rejects when nothing answered. @param url with its path */
export type Transport = (url: string, call: OutgoingCall) => Promise<IncomingAnswer>;

/** By the Fetch standard (WHATWG), as browsers have it and Node.js too. */
export const fetchTransport: Transport = async (url, call) => {
  const response = await fetch(url, call);
  return {
    status: response.status,
    header: (name) => response.headers.get(name),
    text: () => response.text(),
    pieces: () => piecesOf(response.body),
  };
};

/** Not every browser can iterate over a stream. */
async function* piecesOf(body: ReadableStream<Uint8Array> | null): AsyncGenerator<Uint8Array> {
  const reader = body?.getReader();
  for (;;) {
    const piece = await reader?.read();
    if (!piece || piece.done) return;
    yield piece.value;
  }
}
