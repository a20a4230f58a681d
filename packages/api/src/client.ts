/** The HTTP client that the console, the command line and the tests share: all calls in one object. */
import { descriptionCalls } from "./calls/description.ts";
import { deviceCalls } from "./calls/device.ts";
import { inletCalls } from "./calls/inlet.ts";
import { mapCalls } from "./calls/map.ts";
import { notificationCalls } from "./calls/notification.ts";
import { operateCalls } from "./calls/operate.ts";
import { peopleCalls } from "./calls/people.ts";
import { reportCalls } from "./calls/report.ts";
import { type ClientOptions, openSender } from "./calls/sender.ts";

export type { AskOptions } from "./calls/operate.ts";
export { type ClientOptions, MISSING_HEADER } from "./calls/sender.ts";
export type { IncomingAnswer, OutgoingCall, Transport } from "./calls/transport.ts";
export { queryText } from "./calls/words.ts";

export type Client = ReturnType<typeof createClient>;

/** Every method rejects with ProblemError, or with UnreachableError when nothing answered. */
export function createClient(options: ClientOptions) {
  const sender = openSender(options);
  return {
    ...operateCalls(sender),
    ...reportCalls(sender),
    ...peopleCalls(sender),
    ...deviceCalls(sender),
    ...inletCalls(sender),
    ...mapCalls(sender),
    ...notificationCalls(sender),
    ...descriptionCalls(sender),
  };
}
