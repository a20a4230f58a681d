/** The full path: an HTTP request at a web inlet, durable, published, acknowledged, confirmed, durable. */
import { Agent, request } from "node:http";
import type { Ask } from "./load.ts";

export interface FullPathOptions {
  readonly url: string;
  readonly inlet: string;
  readonly key: string;
  readonly connections: number;
}

/** How far a request is followed before its answer counts. */
export type Extent = "accepted" | "acknowledged" | "confirmed";

export function openFullPath({ url, inlet, key, connections }: FullPathOptions) {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  const target = new URL(`/in/${inlet}`, url);

  function ask(extent: Extent): Ask {
    const prefer = extent === "accepted" ? {} : { prefer: "wait=10" };
    const until = extent === "acknowledged" ? { until: "acknowledged" } : {};
    return (worker, turn) => {
      const body = JSON.stringify({ target: channelAddress(worker), action: turn % 2 === 0 ? "on" : "off", ...until });
      const headers = {
        authorization: `Bearer ${key}`,
        "content-type": "application/json",
        "content-length": Buffer.byteLength(body),
        ...prefer,
      };
      return new Promise((resolve, reject) => {
        const call = request(target, { agent, method: "POST", headers }, (response) => {
          let text = "";
          response.setEncoding("utf8");
          response.on("data", (chunk: string) => {
            text += chunk;
          });
          response.on("end", () => {
            const wanted = extent === "accepted" ? 202 : 200;
            const complete = extent !== "confirmed" || text.includes('"outcome":"complete"');
            if (response.statusCode === wanted && complete) resolve();
            else reject(new Error(`answered ${response.statusCode}: ${text.slice(0, 300)}`));
          });
        });
        call.on("error", reject);
        call.end(body);
      });
    };
  }

  return { ask, stop: () => agent.destroy() };
}

/** One channel for every asker, so that none replaces another's command. */
function channelAddress(worker: number): string {
  return `bench/board-${Math.floor(worker / 16)}/relay-${worker % 16}`;
}
