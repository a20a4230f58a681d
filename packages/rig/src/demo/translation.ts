/** What the demo's translators do: each device that speaks no MQTT, where its stand-in is, and its credentials. */
import type { DeviceAccess } from "../broker.ts";
import type { Kept } from "./secrets.ts";
import { type DemoBoard, FAR_DEVICES } from "./world.ts";

const NODE_HOST = "127.0.0.1";

/** The plan file of `bold-relay-translate`. */
export function translationPlan(kept: Kept, boards: readonly DemoBoard[], broker: DeviceAccess): object {
  const { web, lines, radio, lamps, mailbox } = kept.ports;
  const places = {
    http: { url: `http://${NODE_HOST}:${web}` },
    lines: { port: lines },
    radio: { port: `tcp://${NODE_HOST}:${radio}` },
    lamps: { port: `tcp://${NODE_HOST}:${lamps}` },
    mailbox: { key: kept.mailboxKey },
  };
  const devices = FAR_DEVICES.map(({ site, device, reach }) => ({
    site,
    device,
    username: `${site}.${device}`,
    password: kept.devicePasswords[`${site}/${device}`],
    channels: boards.find((board) => board.site === site && board.device === device)?.channels ?? [],
    reach: { ...reach, ...places[reach.by] },
  }));
  return { broker, mailbox: { host: NODE_HOST, port: mailbox }, devices };
}
