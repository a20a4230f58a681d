/** The servers of this run. */
import { inject } from "vitest";

/** Each worker has a broker of its own: files of tests that run at the same time do not hear each other. */
export function brokerUrl(): string {
  const urls = inject("brokerUrls");
  const worker = Number(process.env.VITEST_POOL_ID ?? "1");
  return urls[worker % urls.length] ?? "";
}
