/** Reads a stream of server-sent events. A file of its own: only who listens loads it. */
import { createParser } from "eventsource-parser";
import type { IncomingAnswer } from "./calls/transport.ts";
import type { ListenEvent, LiveEvent, PanelEvent, WireEvent } from "./client-answer.ts";

/** Resolves when the stream ends. Rejects when it breaks, or when the signal of the call aborts. */
export async function readEvents<Event extends LiveEvent | WireEvent | ListenEvent | PanelEvent>(
  answer: Promise<IncomingAnswer>,
  onEvent: (event: Event, id: string | undefined) => void,
): Promise<void> {
  const pieces = (await answer).pieces();
  const parser = createParser({
    onEvent: ({ event, data, id }) => onEvent({ name: event, data: JSON.parse(data) } as Event, id),
  });
  const decoder = new TextDecoder();
  for await (const piece of pieces) parser.feed(decoder.decode(piece, { stream: true }));
}
