/** What each step of commissioning looks at, and how it is judged: the broker, the device's presence, its channels, a hand, a power cut. */
import {
  type Asker,
  type ChannelEntry,
  channelWords,
  failed,
  failedGarbled,
  fillTopic,
  type Judgement,
  judgeChannel,
  judgeLink,
  judgePresence,
  kindOf,
  kindOfChannel,
  type Observed,
  passed,
  RelayError,
  safeStateOf,
  type Trial,
  type TrialEvidence,
  trialsOf,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Shards } from "../requests/shards.ts";
import type { Ask } from "../requests/wait.ts";
import type { Board } from "../state/board.ts";
import type { PresenceLog } from "../state/presence-log.ts";
import type { Evidence } from "./evidence.ts";

export interface StepChecksDeps {
  readonly clock: Clock;
  readonly board: Board;
  readonly links: Pick<Shards, "linkStateOf">;
  readonly ask: Ask;
  readonly presences: PresenceLog;
}

const HANDS_WITHIN_MS = 120_000;
const POWER_WITHIN_MS = 180_000;
const LOOK_EVERY_MS = 50;

export class StepChecks {
  private readonly deps: StepChecksDeps;
  private readonly device: string;
  private readonly evidence: Evidence;
  private readonly isOver: () => boolean;

  /** @param isOver whether nobody waits for a judgement any more */
  constructor(deps: StepChecksDeps, device: string, evidence: Evidence, isOver: () => boolean) {
    this.deps = deps;
    this.device = device;
    this.evidence = evidence;
    this.isOver = isOver;
  }

  /** @throws RelayError not-found for a channel that is no more */
  judge(name: string, asker: Asker | undefined): Promise<Judgement> | Judgement {
    if (name === "link") {
      const { isUp, trouble } = this.deps.links.linkStateOf(this.device);
      return judgeLink(isUp, trouble);
    }
    if (name === "presence") return this.judgePresence();
    if (name === "hand") return this.judgeHand();
    if (name === "power") return this.judgePower();
    if (name === "safe") return this.judgeSafe();
    const channel = this.channels().find(({ slug }) => name === `channel ${slug}`);
    if (!channel || !asker) throw new RelayError("not-found", { what: `The channel of the step “${name}”` });
    return kindOf(channel.kind).input ? this.judgeInput(channel) : this.judgeOutput(channel, asker);
  }

  private async judgePresence(): Promise<Judgement> {
    const { board } = this.deps;
    const [first] = this.channels();
    const here = first?.patterns.here ?? null;
    const known = board.presenceOf(this.device)?.up ?? null;
    const unassigned = here !== null && known === null ? await this.evidence.strays() : [];
    return judgePresence({
      topic: first && here !== null ? fillTopic(here, first) : null,
      up: known,
      pattern: this.deps.presences.patternOf(this.device),
      silent: this.silentChannel(),
      unassigned,
    });
  }

  private silentChannel() {
    const silent = this.channels().find((one) => this.deps.board.ageOf(one).stale === "silent");
    return silent ? { name: silent.name, everyMs: silent.policy.reportsEveryMs ?? 0 } : null;
  }

  private async judgeOutput(channel: ChannelEntry, asker: Asker): Promise<Judgement> {
    const since = this.deps.clock.now();
    const trials: TrialEvidence[] = [];
    let stoppedAt: Trial | null = null;
    for (const trial of trialsOf(kindOfChannel(channel))) {
      const evidence = await this.try(channel, trial, asker);
      trials.push(evidence);
      if (evidence.end === "delivered") continue;
      stoppedAt = trial;
      break;
    }
    return judgeChannel(channel, {
      trials,
      garbled: this.evidence.garbledSince(since),
      onlyRetained: this.evidence.onlyRetained(channel.address),
      unassigned: stoppedAt ? await this.straysOf(channel, stoppedAt, asker) : [],
      pattern: this.deps.presences.patternOf(this.device),
    });
  }

  /** What the device may say on a topic that nobody claims. It is asked once more: it may speak only when it has switched. */
  private straysOf(channel: ChannelEntry, trial: Trial, asker: Asker): Promise<string[]> {
    const mayRepeat = kindOf(channel.kind).repeatable && channel.drive === "set";
    return this.evidence.strays(() => (mayRepeat ? this.try(channel, trial, asker) : Promise.resolve()));
  }

  private async try(channel: ChannelEntry, { action, value }: Trial, asker: Asker): Promise<TrialEvidence> {
    const { policy, address } = channel;
    const since = this.deps.clock.now();
    const intent = { target: address, action, value: value ?? null, forMs: null, until: null, repeatKey: null };
    const waitMs = policy.ackWithinMs * policy.attempts * 2 + policy.settleMs + 10_000;
    const request = await this.deps.ask(intent, { ...asker, inlet: "commissioning" }, waitMs);
    const command = request.commands.find((one) => one.channel === address);
    return {
      to: command?.to ?? "off",
      end: command?.end ?? null,
      reason: command?.reason ?? null,
      acknowledgedMs: command?.after.acknowledged ?? null,
      confirmedMs: command?.after.confirmed ?? null,
      reported: this.evidence.reportedSince(address, since),
      ignored: command?.ignored ?? null,
    };
  }

  private async judgeInput(channel: ChannelEntry): Promise<Judgement> {
    const change = await this.nextChange([channel], HANDS_WITHIN_MS, () => true);
    if (change) return passed(`It said ${channelWords(channel, change.observed.value)}.`);
    const garbled = this.evidence.garbledSince(this.deps.clock.now() - HANDS_WITHIN_MS).at(-1);
    if (garbled) return failedGarbled(garbled);
    return failed(
      `Nothing changed on ${channel.topics.is} within two minutes.`,
      "Compare the topic letter by letter, and look at the wire while it changes.",
    );
  }

  private async judgeHand(): Promise<Judgement> {
    const byHand = ({ cause }: Observed) => cause === "hand" || cause === "unknown";
    const change = await this.nextChange(this.channels(), HANDS_WITHIN_MS, byHand);
    if (!change)
      return failed(
        "No change was seen within two minutes.",
        "The device must report when its own switch is used, without being asked.",
      );
    const seen = `${change.channel.name} became ${channelWords(change.channel, change.observed.value)}`;
    if (change.observed.cause === "hand") return passed(`${seen}, by hand, and it said so.`);
    return { ...passed(`${seen}.`), tryThis: "It does not say what made it so: the journal will say “unknown cause”." };
  }

  private async judgePower(): Promise<Judgement> {
    const { board } = this.deps;
    const was = board.presenceOf(this.device);
    const since = this.deps.clock.now();
    // It may be back sooner than anybody looks: what it said counts, not what it is.
    const said = (up: boolean) => this.evidence.comingsSince(since).some((one) => one.up === up);
    const gone = await this.until(() => said(false), POWER_WITHIN_MS);
    if (!gone)
      return failed(
        "It never went off the broker.",
        "Without a last will nobody learns that it is gone. Set one on its presence topic, retained.",
      );
    const back = await this.until(() => said(true) && board.presenceOf(this.device)?.up === true, POWER_WITHIN_MS);
    if (!back)
      return failed(
        "It went, and did not come back within three minutes.",
        "It must say that it is here at every connect, retained.",
      );
    const boot = board.presenceOf(this.device)?.boot ?? null;
    if (boot === null || was?.boot === null)
      return {
        ...passed("It went and came back."),
        tryThis: "It does not say that it was powered up anew, so power-up rules cannot act on it.",
      };
    if (boot === was?.boot)
      return failed(
        "It came back with the same power-up mark as before.",
        "The mark must change with every power-up, and only then.",
      );
    return passed("It went, came back, and said that it was powered up anew.");
  }

  private async judgeSafe(): Promise<Judgement> {
    const outputs = this.channels().filter(
      ({ kind, topics }) => !kindOf(kind).input && kindOf(kind).repeatable && topics.is !== null,
    );
    const settled = await this.until(
      () => outputs.every((one) => this.isSafe(one)),
      Math.max(2_000, ...outputs.map(({ policy }) => policy.settleMs)),
    );
    if (settled) return passed("Every channel is as its power-up rule says.");
    const wrong = outputs.filter((one) => !this.isSafe(one));
    const names = wrong.map((one) => {
      const observed = this.deps.board.observedOf(one.id);
      return `${one.name} is ${observed ? channelWords(one, observed.value) : "unknown"}`;
    });
    return failed(`${names.join(", ")}.`, "Set the power-up rule (powerUp) of the channel, and its safe state.");
  }

  /** With no rule of its own a channel is right if nobody must fear it: at rest. */
  private isSafe(channel: ChannelEntry): boolean {
    const { id, policy } = channel;
    const observed = this.deps.board.observedOf(id);
    if (observed === null) return false;
    if (policy.powerUp === "restore") return this.deps.board.agreementOf(id) === "agreed";
    const safe = safeStateOf(channel);
    return safe === null || observed.value === safe;
  }

  private async nextChange(channels: readonly ChannelEntry[], ms: number, suits: (observed: Observed) => boolean) {
    const { board } = this.deps;
    const before = new Map(channels.map(({ id }) => [id, board.observedOf(id)]));
    let found: { channel: ChannelEntry; observed: Observed } | null = null;
    await this.until(() => {
      for (const channel of channels) {
        const observed = board.observedOf(channel.id);
        if (observed && observed !== before.get(channel.id) && suits(observed)) found = { channel, observed };
      }
      return found !== null;
    }, ms);
    return found as { channel: ChannelEntry; observed: Observed } | null;
  }

  private async until(isSo: () => boolean, ms: number): Promise<boolean> {
    const giveUpAt = performance.now() + ms;
    while (!isSo()) {
      if (this.isOver() || performance.now() > giveUpAt) return false;
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
    }
    return true;
  }

  private channels(): readonly ChannelEntry[] {
    return this.deps.board.channelsOf(this.device);
  }
}
