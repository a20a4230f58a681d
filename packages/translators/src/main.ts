/** `bold-relay-translate <plan>`: runs the translators of a site, beside the service or alone at the place. */
import { Command } from "commander";
import { readPlan } from "./plan-file.ts";
import { reachKinds } from "./reach/index.ts";
import { startTranslatorHost } from "./translator-host.ts";

function say(line: string): void {
  process.stdout.write(`${new Date().toISOString()} ${line}\n`);
}

const program = new Command("bold-relay-translate")
  .description(
    `Lets devices that speak no MQTT be commanded. Ways to reach one:\n${Object.entries(reachKinds)
      .map(([by, { about }]) => `  ${by}: ${about}`)
      .join("\n")}`,
  )
  .argument("<plan>", "YAML or JSON file with the broker and the devices, see docs/how-to/translate-a-device.md")
  .option("--check", "show errors of the plan; start nothing")
  .action(async (file: string, { check = false }: { check?: boolean }) => {
    const plan = readPlan(file);
    if (check) return say(`${file}: ${countOf(plan.devices.length)}, no errors.`);
    const host = await startTranslatorHost(plan, say);
    say(
      `${countOf(plan.devices.length)} on the broker${host.mailboxPort ? `, mailbox on port ${host.mailboxPort}` : ""}`,
    );
    const stop = () => {
      setTimeout(() => process.exit(0), 3_000).unref();
      void host.stop().then(() => process.exit(0));
    };
    process.once("SIGINT", stop);
    process.once("SIGTERM", stop);
  });

program.parseAsync().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});

function countOf(devices: number): string {
  return devices === 1 ? "1 device" : `${devices} devices`;
}
