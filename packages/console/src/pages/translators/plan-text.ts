/** The first text of a translator's plan, from devices as the service has them. Pure. */
import type { DeviceView } from "@bold-relay/api";
import { stringify } from "yaml";

/** How a device may be reached; what stands in angle brackets is the device's own. */
export const REACHES = {
  http: { by: "http", url: "http://192.0.2.7", do: { method: "PUT", path: "/pin/{index}/{value}" } },
  lines: {
    by: "lines",
    host: "192.0.2.9",
    port: 4001,
    form: { form: "text", do: "SET {index} {value}", is: "IS {index} {value}" },
  },
} as const;

/**
 * @param broker where the translator connects
 * @param reach a way to reach the device, to be made that of the device
 */
export function planText(broker: string, devices: readonly DeviceView[], reach: keyof typeof REACHES): string {
  return stringify({
    broker: { url: broker },
    devices: devices.map(({ address, users, channels }) => {
      const [site, device] = address.split("/");
      const [user] = users.slice(-1);
      return {
        site,
        device,
        ...(user ? { username: user.username, password: "its password" } : {}),
        channels: channels.map(({ address: channel, kind, index }) => ({ slug: channel.split("/")[2], kind, index })),
        reach: REACHES[reach],
      };
    }),
  });
}
