/** Every translator of a plan, started and stopped together. */
import type { Plan, TranslatedDevice } from "./plan.ts";
import { reachKindOf } from "./reach/index.ts";
import type { SharedReaches } from "./reach/kind.ts";
import { mailboxesOf } from "./reach/mailbox.ts";
import { type Say, Translator } from "./translator.ts";

export interface TranslatorHost {
  /** Where devices with a mailbox call; null when none does. */
  readonly mailboxPort: number | null;
  stop(): Promise<void>;
}

/** Resolves once every device of the plan is on the broker, reachable or not. */
export async function startTranslatorHost(plan: Plan, say: Say): Promise<TranslatorHost> {
  const shared = new SharedThings();
  const mailboxes = mailboxesOf(shared);
  const driverOf = (device: TranslatedDevice) => reachKindOf(device.reach).open(device, device.reach, shared);
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

class SharedThings implements SharedReaches {
  private readonly things = new Map<string, unknown>();

  the<Thing>(name: string, make: () => Thing): Thing {
    if (!this.things.has(name)) this.things.set(name, make());
    return this.things.get(name) as Thing;
  }
}
