/** Runs every board that the plan file describes, with their control address. */
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { shippedProfiles } from "@bold-relay/core";
import { Command } from "commander";
import { startControl } from "./control.ts";
import {
  HttpBoard,
  LampStringDevice,
  LineBoard,
  type OutsideDevice,
  type OutsideOptions,
  OutsideServices,
  Poller,
  RadioGateway,
  RadioNodeBoard,
} from "./outside/index.ts";
import { RelayBoard } from "./relay-board.ts";
import type { RelayBoardOptions } from "./relay-board-options.ts";

/** The plan file: where the broker is, and the boards with their credentials. */
interface Plan {
  readonly controlPort: number;
  /** `profile`: the slug of one that ships; any other board speaks our own form. */
  readonly boards: readonly (Omit<RelayBoardOptions, "profile"> & { readonly profile?: string })[];
  /** Devices that speak no MQTT, and where they are. */
  readonly outside?: readonly (OutsideOptions & { readonly by: "http" | "lines" | "mailbox" | "radio" | "lamps" })[];
  readonly ports?: {
    readonly web: number;
    readonly lines: number;
    readonly radio: number;
    readonly lamps: number;
    readonly mailbox: number;
    readonly services: number;
  };
  readonly mailboxKey?: string;
}

/** What the contacts were when the boards last ran, by board: latching relays keep it without power. */
type Memory = Record<string, NonNullable<RelayBoardOptions["contacts"]>>;

/** The address of the demo's radio node, as its translator expects it. */
const RADIO_NODE = 4;

const program = new Command("standins").argument("<plan>", "JSON file with the boards").action(async (file: string) => {
  const plan = JSON.parse(readFileSync(file, "utf8")) as Plan;
  const memoryFile = `${file}.memory`;
  const memory: Memory = existsSync(memoryFile) ? JSON.parse(readFileSync(memoryFile, "utf8")) : {};
  const remember = () =>
    writeFileSync(
      memoryFile,
      JSON.stringify(Object.fromEntries(boards.map((board) => [board.name, board.state.contacts]))),
    );
  const boards: RelayBoard[] = plan.boards.map(({ profile: slug, ...options }) => {
    const profile = shippedProfiles.find((one) => one.slug === slug);
    const contacts = { ...options.contacts, ...memory[`${options.site}/${options.device}`] };
    return new RelayBoard({ ...options, ...(profile ? { profile } : {}), contacts, onMoved: remember });
  });
  const gateway = new RadioGateway(plan.ports?.radio ?? 0);
  await gateway.start();
  const services = new OutsideServices(plan.ports?.services ?? 0);
  await services.start();
  const outside = (plan.outside ?? []).map((one) => outsideDevice(one, plan, gateway));
  const control = await startControl([...boards, ...outside], plan.controlPort);
  await Promise.all([...boards, ...outside].map((board) => board.start()));
  process.stdout.write(
    `${boards.length} boards on the broker, ${outside.length} elsewhere, control on port ${control.port}\n`,
  );
  const stop = () => {
    void Promise.all([
      ...[...boards, ...outside].map((board) => board.stop()),
      gateway.stop(),
      services.stop(),
      control.stop(),
    ]).then(() => process.exit(0));
    setTimeout(() => process.exit(0), 1_000).unref();
  };
  process.once("SIGINT", stop);
  process.once("SIGTERM", stop);
});

function outsideDevice(
  { by, ...options }: NonNullable<Plan["outside"]>[number],
  { ports, mailboxKey = "" }: Plan,
  gateway: RadioGateway,
): OutsideDevice {
  if (by === "http") return new HttpBoard(options, ports?.web);
  if (by === "lines") return new LineBoard(options, ports?.lines);
  if (by === "lamps") return new LampStringDevice(options, ports?.lamps);
  if (by === "mailbox") return new Poller(options, `http://127.0.0.1:${ports?.mailbox}`, mailboxKey);
  return new RadioNodeBoard(options, gateway, RADIO_NODE);
}

program.parseAsync().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
