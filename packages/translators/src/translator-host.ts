/** Every translator of a plan, started and stopped together. */
import type { DeviceDriver } from "./device-driver.ts";
import { HttpDevice } from "./http.ts";
import { LampString } from "./lamp-string.ts";
import { LineDevice } from "./lines.ts";
import { MailboxDevice, MailboxServer } from "./mailbox.ts";
import type { Plan, TranslatedDevice } from "./plan.ts";
import { RadioLine, RadioNode } from "./radio.ts";
import { type Say, Translator } from "./translator.ts";

export interface TranslatorHost {
  /** Where devices with a mailbox call; null when none does. */
  readonly mailboxPort: number | null;
  stop(): Promise<void>;
}

/** Resolves once every device of the plan is on the broker, reachable or not. */
export async function startTranslatorHost(plan: Plan, say: Say): Promise<TranslatorHost> {
  const mailboxes = new MailboxServer();
  const lines = new Map<string, RadioLine>();
  const driverOf = (device: TranslatedDevice): DeviceDriver => {
    const { reach } = device;
    switch (reach.by) {
      case "http":
        return new HttpDevice(device, reach);
      case "lines":
        return new LineDevice(device, reach);
      case "mailbox": {
        const box = new MailboxDevice(device, reach);
        mailboxes.add(`${device.site}/${device.device}`, box);
        return box;
      }
      case "lamps":
        return new LampString(reach);
      case "radio": {
        const line = lines.get(reach.port) ?? new RadioLine(reach.port);
        lines.set(reach.port, line);
        return new RadioNode(device, reach, line);
      }
    }
  };
  const translators = plan.devices.map((device) => new Translator(device, plan.broker, driverOf(device), say));
  const mailboxPort = plan.mailbox ? await mailboxes.start(plan.mailbox) : null;
  await Promise.all(translators.map((translator) => translator.start()));
  return {
    mailboxPort,
    async stop() {
      await Promise.all(translators.map((translator) => translator.stop()));
      await mailboxes.stop();
    },
  };
}
