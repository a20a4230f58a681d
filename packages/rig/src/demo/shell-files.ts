/** Files for `. FILE`: what a reader of the pages needs in a shell, beside the demo. */
import { writeFileSync } from "node:fs";
import path from "node:path";
import type { DeviceAccess } from "../broker.ts";
import type { Kept } from "./secrets.ts";

/**
 * A file for `. FILE`, readable by its owner only.
 *
 * @param programs a folder that comes first on the path: that of the Node.js that this runs on
 * @param also another such file, which it reads if it is there
 */
export function writeShellFile(
  file: string,
  settings: Readonly<Record<string, string>>,
  { programs, also }: { programs?: string; also?: string } = {},
): void {
  const quoted = (text: string) => `'${text.replaceAll("'", "'\\''")}'`;
  const lines = Object.entries(settings).map(([name, value]) => `export ${name}=${quoted(value)}\n`);
  if (programs !== undefined) lines.push(`export PATH=${quoted(programs)}:"$PATH"\n`);
  if (also !== undefined) lines.push(`if [ -f ${quoted(also)} ]; then . ${quoted(also)}; fi\n`);
  writeFileSync(file, lines.join(""), { mode: 0o600 });
}

/** What the programs in `examples/` take to reach the broker: as a device, and as the wall buttons. */
export function writeBrokerFiles(folder: string, { ports, buttonsPassword }: Kept, devices: DeviceAccess): void {
  const { hostname, port } = new URL(devices.url);
  writeShellFile(path.join(folder, "device.env"), { BROKER: hostname, PORT: port, CA: devices.ca ?? "" });
  writeShellFile(path.join(folder, "buttons.env"), {
    BROKER: hostname,
    PORT: String(ports.broker),
    MQTT_USER: "buttons",
    MQTT_PASSWORD: buttonsPassword,
  });
}
