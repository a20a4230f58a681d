/**
 * Calls over `node:http`. The global `fetch` would do, but loading it takes as long as starting Node.js does, and letting go of it too.
 */
import { type IncomingMessage, type RequestOptions, request } from "node:http";
import { text } from "node:stream/consumers";
import type { IncomingAnswer, OutgoingCall, Transport } from "@bold-relay/api";

/** For how long a connection may be silent, ms: longer than any wait that the service grants. */
const SILENT_MS = 300_000;

export const httpTransport: Transport = async (url, { method, headers, body, signal }: OutgoingCall) => {
  const secure = url.startsWith("https:");
  const open = secure ? (await import("node:https")).request : request;
  const options: RequestOptions = { method, headers: withLength(headers, body), ...(signal ? { signal } : {}) };
  const response = await new Promise<IncomingMessage>((resolve, reject) => {
    const call = open(url, options, resolve);
    call.on("error", reject);
    // Streams say something every 15 s.
    call.setTimeout(SILENT_MS, () => call.destroy(new Error(`nothing came for ${SILENT_MS / 1000} s`)));
    call.end(body);
  });
  return answerOf(response);
};

/** Else it would go in chunks, which some proxies refuse. */
function withLength(headers: OutgoingCall["headers"], body: string | undefined): Record<string, string | number> {
  return body === undefined ? headers : { ...headers, "content-length": Buffer.byteLength(body) };
}

function answerOf(response: IncomingMessage): IncomingAnswer {
  // Read at once, asked for or not: an answer that nobody reads keeps its connection, and with it this process.
  const body = response.headers["content-type"]?.startsWith("text/event-stream") ? null : text(response);
  body?.catch(() => {});
  return {
    status: response.statusCode ?? 0,
    header: (name) => response.headersDistinct[name]?.join(", ") ?? null,
    text: () => body ?? text(response),
    pieces: () => response,
  };
}
