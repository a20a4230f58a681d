/**
 * Buttons, switches and contacts of our own devices as a way to ask: what a device reports of an input is an arrival, where some route waits for
 * it. A press is a request from the moment in which it is in the database. Until then, the time in which presses are told apart and one
 * commit, nothing keeps it: a device does not send its report again.
 */
import {
  buildRouter,
  type ChannelEntry,
  eventsWanted,
  eventWords,
  fullAddress,
  type InputEvent,
  inputArrival,
  isInputEvent,
  pressTimesOf,
  RelayError,
} from "@bold-relay/core";
import type { Log } from "../../platform/log.ts";
import type { InputWatcher } from "../../state/input-feed.ts";
import type { Inlet, OwnKind } from "../inlet.ts";
import type { Exchange, InletKindWay, Trial } from "../kind.ts";
import { Presses } from "../presses.ts";
import { needed } from "../trial-exchange.ts";

interface DeviceInletDeps {
  readonly watchInputs: (watcher: InputWatcher) => () => void;
  readonly log: Log;
}

const TRIED = { keyId: null, repeatKey: null, waitMs: 5_000 } as const;
const NOBODY = { keyId: null, repeatKey: null, waitMs: 0 } as const;

class DeviceInlet implements OwnKind {
  readonly health = { up: true, trouble: null };
  private readonly inlet: Inlet;
  private readonly deps: DeviceInletDeps;
  private readonly presses: Presses;
  private end: (() => void) | null = null;

  constructor(inlet: Inlet, deps: DeviceInletDeps) {
    this.inlet = inlet;
    this.deps = deps;
    const { routes = [], site } = inlet.description;
    const router = buildRouter(routes);
    const times = pressTimesOf(inlet.description);
    this.presses = new Presses({
      inputOf(channel) {
        const wanted = site === null || channel.site.slug === site ? eventsWanted(router, channel.address) : null;
        return wanted === null || wanted.size === 0 ? null : { times, wanted };
      },
      onEvent: (channel, event) => void this.hear(channel, event),
    });
  }

  start(): void {
    this.end = this.deps.watchInputs(this.presses);
  }

  async stop(): Promise<void> {
    this.end?.();
    this.presses.stop();
  }

  private async hear(channel: ChannelEntry, event: InputEvent): Promise<void> {
    try {
      await this.inlet.hear(inputArrival(channel, event), NOBODY);
    } catch (error) {
      const { slug } = this.inlet.description;
      this.deps.log.warn({ err: error, inlet: slug, channel: channel.address, event }, "a press could not be taken");
    }
  }
}

export const deviceWay: InletKindWay = {
  open: (inlet, { watchInputs, log }) => new DeviceInlet(inlet, { watchInputs, log }),
  trial: async (trial) => [await deviceTrial(trial)],
};

/** As if the input had told it: no device is asked to press its own button. */
async function deviceTrial({ inlet, arrival }: Trial): Promise<Exchange> {
  const channel = needed(arrival.channel, "the channel of the input");
  const text = needed(arrival.text, "what it does: on, off, once, twice or long");
  if (!isInputEvent(text))
    throw new RelayError("bad-request", { why: `An input does on, off, once, twice or long, not “${text}”` });
  const address = fullAddress(channel, inlet.description.site);
  const known = inlet.states().find((one) => one.address === address);
  if (!known) throw new RelayError("bad-request", { why: `The inlet hears no channel ${address}` });
  const { name, room } = known;
  const { reply } = await inlet.hear(inputArrival({ address, name, room: { name: room } }, text), TRIED);
  return { sent: `${address} ${eventWords(text)}`, got: reply };
}
