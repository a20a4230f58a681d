/** The client of who loads no more than everyday work needs. A file of its own, so that the other calls are not loaded with it. */
import { operateCalls } from "./calls/operate.ts";
import { type ClientOptions, openSender } from "./calls/sender.ts";

/** As `createClient`, with the calls of `calls/operate.ts` only. */
export function createOperateClient(options: ClientOptions) {
  return operateCalls(openSender(options));
}
