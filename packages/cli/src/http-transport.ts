/**
 * Calls over `node:http`. The global `fetch` would do, but loading it takes as long as starting Node.js does, and letting go of it too.
 */
import { type IncomingMessage, type RequestOptions, request } from "node:http";
import { text } from "node:stream/consumers";
import { CLI_AGENT, type IncomingAnswer, type OutgoingCall, type Transport, VERSION } from "@bold-relay/api";

/** For how long a connection may be silent, ms: longer than any wait that the service grants. */
const SILENT_MS = 300_000;

export const httpTransport: Transport = async (url, { method, headers, body, signal }: OutgoingCall) => {
  const secure = url.startsWith("https:");
  const open = secure ? (await import("node:https")).request : request;
  const named = { "user-agent": `${CLI_AGENT}${VERSION}`, ...headers };
  const options: RequestOptions = { method, headers: withLength(named, body), ...(signal ? { signal } : {}) };
  const done = "prefer" in headers ? () => {} : showWaiting();
  const response = await new Promise<IncomingMessage>((resolve, reject) => {
    const call = open(url, options, resolve);
    call.on("error", reject);
    call.on("close", done);
    // Streams say something every 15 s.
    call.setTimeout(SILENT_MS, () => call.destroy(new Error(`nothing came for ${SILENT_MS / 1000} s`)));
    call.end(body);
  });
  return answerOf(response);
};

/** From when on somebody who waits is told so, and how often, ms. */
const [PATIENCE_MS, EVERY_MS] = [1_000, 1_000];

/** A line on the error stream that goes away by itself: nobody has to guess whether a long call still runs. @returns ends it */
function showWaiting(): () => void {
  if (process.stderr.isTTY !== true) return () => {};
  const startedAt = performance.now();
  let isShown = false;
  const show = () => {
    const seconds = Math.floor((performance.now() - startedAt) / 1000);
    process.stderr.write(`\rWaiting for the service, ${seconds} s\u001b[K`);
    isShown = true;
    timer = setTimeout(show, EVERY_MS).unref();
  };
  let timer = setTimeout(show, PATIENCE_MS).unref();
  return () => {
    clearTimeout(timer);
    if (isShown) process.stderr.write("\r\u001b[K");
    isShown = false;
  };
}

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
