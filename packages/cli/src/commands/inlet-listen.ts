/** `bold-relay inlet listen`: press the real button, see what arrives, and say what it should do. */
import type { Client, ListenEvent, ListenedView } from "@bold-relay/api";
import {
  arrivalParts,
  firstChoices,
  GESTURE_PAUSE_MS,
  type InputEvent,
  isInputEvent,
  meantBy,
  outcomeWords,
  routeFrom,
  withNewRoute,
} from "@bold-relay/core";
import { Command } from "commander";
import { stringify } from "yaml";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, printJson, printLine } from "../output.ts";
import { UsageError } from "../problem-text.ts";
import { printRehearsal } from "./say.ts";

interface ListenOptions {
  readonly count?: number;
  readonly target?: string;
  readonly action?: string;
  readonly value?: string;
  readonly name?: string;
}

export const listenCommand = new Command("listen")
  .description("show what arrives at an inlet, and what it could hear, for five minutes at most")
  .argument("<inlet>")
  .option("--count <n>", "stop after this number of arrivals", Number)
  .option("--target <name>", "make a route from the first arrival that no route catches: the channel, group or scene")
  .option("--action <action>", "the action of that route")
  .option("--value <value>", "the value, where the action takes one")
  .option("--name <name>", "the name of that route")
  .addHelpText(
    "after",
    `
Of a topic inlet, messages on unassigned topics are shown too; of a device inlet, everything that inputs of its site do.

Examples:
  bold-relay inlet listen porch-chat
  bold-relay inlet listen wall-buttons --target "hall light, finch" --action toggle     then press the button`,
  )
  .action(async (slug: string, options: ListenOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const { target, action } = options;
    if ((target === undefined) !== (action === undefined)) throw new Error("A route needs both --target and --action.");
    const stop = new AbortController();
    for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stop.abort());
    let left = options.count ?? Number.POSITIVE_INFINITY;
    let caught: ListenedView | null = null;
    const gesture = new Gesture(() => stop.abort());
    const onEvent = (event: ListenEvent) => {
      if (stop.signal.aborted) return;
      if (json) printJson({ event: event.name, ...event.data });
      else printEvent(event, target !== undefined);
      if (event.name !== "arrival") return;
      left -= 1;
      if (target !== undefined && !gesture.takes(event.data) && isFree(event.data)) caught = event.data;
      if (left <= 0 || caught) stop.abort();
    };
    await client.listenAt(slug, onEvent, stop.signal).catch((error: unknown) => {
      if (!stop.signal.aborted) throw error;
    });
    const meant = caught ?? gesture.meant();
    if (meant) await makeRoute(client, slug, meant, options);
    else if (target !== undefined) process.exitCode = EXIT.notReached;
  });

/** What one input of a device tells while it is pressed: several arrivals, of which one is meant. */
class Gesture {
  private readonly arrivals: ListenedView[] = [];
  private readonly onOver: () => void;
  private timer: NodeJS.Timeout | undefined;

  /** @param onOver called once the input has been quiet for a while after something that has no route */
  constructor(onOver: () => void) {
    this.onOver = onOver;
  }

  /** @returns whether it belongs to a press, and is not to be looked at by itself */
  takes(arrival: ListenedView): boolean {
    const { channel, text } = arrival.arrival ?? {};
    if (channel === undefined || !isInputEvent(text ?? "")) return false;
    const [first] = this.arrivals;
    // Another input may move meanwhile: the one that moved first is meant.
    if (first !== undefined && first.arrival?.channel !== channel) return true;
    this.arrivals.push(arrival);
    clearTimeout(this.timer);
    this.timer = setTimeout(this.onOver, GESTURE_PAUSE_MS);
    return true;
  }

  /** @throws UsageError when what was pressed has a route already */
  meant(): ListenedView | null {
    clearTimeout(this.timer);
    if (this.arrivals.length === 0) return null;
    const eventOf = ({ arrival }: ListenedView) => arrival?.text as InputEvent;
    const event = meantBy(this.arrivals.map((one) => ({ event: eventOf(one), isFree: isFree(one) })));
    const found = this.arrivals.find((one) => eventOf(one) === event);
    if (found) return found;
    const words = this.arrivals.find((one) => !isFree(one))?.words ?? "This press";
    throw new UsageError(`${words}: a route catches it already. Press the button another way, or change that route.`);
  }
}

/** Whether a route may be made from it: no other one catches it. */
function isFree({ arrival, outcome }: ListenedView): boolean {
  return arrival !== null && (outcome === "no-route" || outcome === "not-understood");
}

function printEvent(event: ListenEvent, makesRoute: boolean): void {
  if (event.name === "arrival") return printLine(arrivalLine(event.data));
  if (event.name === "skipped") return printLine(faint(skippedLine(event.data.count)));
  if (event.name === "ended") return printLine(faint(`Listening ended: ${event.data.why}.`));
  printLine(makesRoute ? "Press the button, or send the message, that the route should catch." : "Listening.");
  if (event.data.masks)
    printLine(faint("While all topics are listened to, the broker cannot tell that no device listens to commands."));
}

function skippedLine(count: number): string {
  return `${count} more ${count === 1 ? "message" : "messages"} in this second, not shown.`;
}

function arrivalLine({ at, words, outcome, requests: [request] }: ListenedView): string {
  const became = outcome === "no-route" ? "no route catches it" : outcomeWords(outcome);
  return `${faint(when.clockMs(at))}  ${bold(words)}  ${became}${request === undefined ? "" : faint(`  ${request}`)}`;
}

/** @throws Error when the route would do nothing, or the inlet was changed meanwhile; nothing is saved then */
async function makeRoute(
  client: Client,
  slug: string,
  { arrival }: ListenedView,
  { target = "", action = "", value = "", name = "" }: ListenOptions,
): Promise<void> {
  const come = arrival ?? {};
  const parts = arrivalParts(come);
  const draft = { target, action, value, name, choices: firstChoices(parts), examples: [], onlySender: "", reply: "" };
  const route = routeFrom(draft, parts);
  const { inlet, version } = await client.inlet(slug);
  // First: what it catches is exactly this, and no other route shall take it.
  const changed = withNewRoute(inlet, route, 0);
  const rehearsal = await client.rehearse(slug, { inlet: changed, arrival: come });
  printLine();
  printLine(stringify(route).trimEnd());
  printLine();
  printRehearsal(rehearsal);
  if (rehearsal.would !== "act") throw new Error("Not saved. The route would send nothing.");
  const saved = await client.saveInlet(changed, version);
  printLine(`Saved as route 1 of ${bold(inlet.name)}, version ${saved.version}.`);
}
