/** Node.js, disk and port. */
import { statfs } from "node:fs/promises";
import { createServer } from "node:net";
import type { Config } from "../../platform/config/config.ts";
import { type Finding, failure, ok, warning } from "./finding.ts";

/** Below this the database may stop within days, bytes. */
const LEAST_FREE = 1e9;
/** Where Debian keeps databases; elsewhere the root. */
const DATA_PLACES = ["/var/lib/postgresql", "/"];

export async function checkMachine(config: Config | null): Promise<Finding[]> {
  return [checkNode(), await checkDisk(), ...(config === null ? [] : [await checkPort(config)])];
}

function checkNode(): Finding {
  const [major = 0, minor = 0] = process.versions.node.split(".").map(Number);
  const fits = (major === 20 && minor >= 19) || (major === 22 && minor >= 12) || major > 22;
  if (fits) return ok("Node.js", process.version);
  return failure("Node.js", `${process.version} is too old`, "Use Node.js 24, or 20.19 or newer.");
}

async function checkDisk(): Promise<Finding> {
  for (const place of DATA_PLACES) {
    const stats = await statfs(place).catch(() => null);
    if (!stats) continue;
    const free = stats.bavail * stats.bsize;
    const text = `${(free / 1e9).toFixed(1)} GB free at ${place}`;
    if (free >= LEAST_FREE) return ok("Disk", text);
    return warning("Disk", text, "Make room: when the disk of the database is full, no request is accepted.");
  }
  return warning("Disk", "its free space is unknown", "Look with df.");
}

async function checkPort({ host, port }: Config): Promise<Finding> {
  const place = `${host}:${port}`;
  const trouble = await new Promise<string | null>((resolve) => {
    const server = createServer();
    server.once("error", (error: NodeJS.ErrnoException) => resolve(error.code ?? error.message));
    server.listen({ host, port }, () => server.close(() => resolve(null)));
  });
  if (trouble === null) return ok("Port", `${place} is free`);
  if (trouble !== "EADDRINUSE")
    return failure("Port", `${place} cannot be opened (${trouble})`, "Correct BOLD_RELAY_HOST and BOLD_RELAY_PORT.");
  const isOurs = await answersAsService(host, port);
  if (isOurs) return ok("Port", `the service answers at ${place}`);
  return failure("Port", `${place} is used by another program`, "Stop that program, or set another BOLD_RELAY_PORT.");
}

async function answersAsService(host: string, port: number): Promise<boolean> {
  const name = host === "0.0.0.0" ? "127.0.0.1" : host;
  try {
    const response = await fetch(`http://${name.includes(":") ? `[${name}]` : name}:${port}/health/live`, {
      signal: AbortSignal.timeout(3_000),
    });
    return ((await response.json()) as { alive?: unknown }).alive === true;
  } catch {
    return false;
  }
}
