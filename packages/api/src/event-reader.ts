/** Reads a stream of server-sent events. A file of its own: only who listens loads it. */
import { createParser } from "eventsource-parser";
import type { LiveEvent, WireEvent } from "./client-answer.ts";

/** Resolves when the stream ends. Rejects when it breaks, or when the signal of the call aborts. */
export async function readEvents<Event extends LiveEvent | WireEvent>(
  response: Promise<Response>,
  onEvent: (event: Event, id: string | undefined) => void,
): Promise<void> {
  const { body } = await response;
  if (!body) return;
  const parser = createParser({
    onEvent: ({ event, data, id }) => onEvent({ name: event, data: JSON.parse(data) } as Event, id),
  });
  const decoder = new TextDecoder();
  const reader = body.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    parser.feed(decoder.decode(value, { stream: true }));
  }
}
