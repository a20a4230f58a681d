/**
 * One device being proven. Steps that need nobody run by themselves; the others begin when a person says so, for they
 * switch things or need hands. Every change is kept at once.
 */
import {
  type Asker,
  type ChannelEntry,
  type CommissioningStep,
  channelWords,
  failed,
  failedGarbled,
  fillTopic,
  type Judgement,
  judgeChannel,
  judgeLink,
  judgePresence,
  kindOf,
  type Observed,
  passed,
  RelayError,
  stepsOf,
  type Trial,
  type TrialEvidence,
  withoutRepeating,
} from "@bold-relay/core";
import type { Link } from "../broker/link.ts";
import type { Wire } from "../broker/wire.ts";
import type { Clock } from "../platform/clock.ts";
import type { Ask } from "../requests/wait.ts";
import type { Board } from "../state/board.ts";
import type { PresenceLog } from "../state/presence-log.ts";
import type { CommissioningRecord } from "../store/commissionings.ts";
import { Evidence } from "./evidence.ts";

export interface CommissioningRunDeps {
  readonly clock: Clock;
  readonly board: Board;
  readonly link: Link;
  readonly wire: Wire;
  readonly ask: Ask;
  readonly presences: PresenceLog;
  /** Keeps the record as it is now. */
  readonly keep: (record: CommissioningRecord) => void;
}

const HANDS_WITHIN_MS = 120_000;
const POWER_WITHIN_MS = 180_000;
const LOOK_EVERY_MS = 50;

export class CommissioningRun {
  readonly device: string;
  record: CommissioningRecord;
  private readonly deps: CommissioningRunDeps;
  private readonly evidence: Evidence;
  private over = false;
  private running: string | null = null;

  constructor(deps: CommissioningRunDeps, device: string, base: Pick<CommissioningRecord, "id" | "startedBy">) {
    const channels = deps.board.channelsOf(device);
    const [first] = channels;
    if (!first) throw new RelayError("not-found", { what: `The device ${device}` });
    this.deps = deps;
    this.device = device;
    this.evidence = new Evidence(deps.wire, device, () => deps.board.channelsOf(device));
    const startedAt = deps.clock.now();
    this.record = { ...base, deviceId: first.device.id, startedAt, finishedAt: null, steps: stepsOf(channels) };
  }

  /** Runs what needs nobody. */
  async begin(): Promise<void> {
    if (!(await this.attempt("link"))) return;
    await this.evidence.listen().catch(() => {});
    if (await this.attempt("presence")) this.invite();
  }

  /**
   * Begins a step, or tries it again. Returns at once.
   *
   * @throws RelayError not-found, or in-use while another step runs
   */
  go(name: string, asker: Asker): void {
    const step = this.step(name);
    if (this.running !== null)
      throw new RelayError("in-use", {
        what: `The step “${step.title}”`,
        why: `“${this.step(this.running).title}” runs`,
      });
    if (name === "link" || name === "presence") void this.begin();
    else void this.attempt(name, asker);
  }

  /**
   * What the person saw, or that the step is left out.
   *
   * @throws RelayError not-found or bad-request
   */
  say(name: string, answer: "yes" | "no" | "turned" | "skip", by: string, note: string | null): void {
    const step = this.step(name);
    if (answer === "skip") return this.skip(step, by, note);
    if (step.state !== "asks")
      throw new RelayError("bad-request", { why: `“${step.title}” does not ask for anything just now` });
    const said = note === null ? "" : ` “${note}”`;
    const verdict: Judgement =
      answer === "yes"
        ? passed(`${by} saw it happen.${said}`)
        : answer === "turned"
          ? failed(
              `${by} saw the opposite happen.${said}`,
              "It is wired the wrong way round: set “reversed” on the channel.",
            )
          : failed(`${by} saw nothing happen.${said}`, "Look at the wiring behind the output, and at its fuse.");
    this.settle(name, verdict, by);
  }

  end(): void {
    this.over = true;
    this.evidence.end();
  }

  private skip(step: CommissioningStep, by: string, note: string | null): void {
    const why = note === null ? "" : ` “${note}”`;
    this.settle(step.name, { state: "skipped", text: `Skipped by ${by}.${why}`, tryThis: null }, by);
    // Without a power cut nothing tells how the channels are after one.
    if (step.name === "power" && this.record.steps.some(({ name }) => name === "safe"))
      this.settle("safe", { state: "skipped", text: "Skipped with the power cut.", tryThis: null }, by);
    if (step.name === "link" || step.name === "presence") this.invite();
  }

  /** @returns whether the next step may follow */
  private async attempt(name: string, asker?: Asker): Promise<boolean> {
    this.running = name;
    const advised = this.step(name).tryThis;
    this.change(name, { state: "running", text: null, tryThis: null, by: null });
    try {
      const judgement = withoutRepeating(await this.judge(name, asker), advised);
      // Whoever skipped it meanwhile has the last word.
      if (this.over || this.step(name).state !== "running") return false;
      this.settle(name, judgement, null);
      return judgement.state === "passed" || judgement.state === "skipped";
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      if (this.step(name).state === "running")
        this.settle(name, failed(why, "Nothing was proven by that. Try the step again."), null);
      return false;
    } finally {
      this.running = null;
    }
  }

  private judge(name: string, asker: Asker | undefined): Promise<Judgement> | Judgement {
    const { link } = this.deps;
    if (name === "link") return judgeLink(link.isUp, link.trouble);
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
    const unclaimed = here !== null && known === null ? await this.evidence.strays() : [];
    return judgePresence({
      topic: first && here !== null ? fillTopic(here, first) : null,
      up: known,
      pattern: this.deps.presences.patternOf(this.device),
      silent: this.silentChannel(),
      unclaimed,
    });
  }

  private silentChannel() {
    const silent = this.channels().find((one) => this.deps.board.ageOf(one).stale === "silent");
    return silent ? { name: silent.name, everyMs: silent.policy.reportsEveryMs ?? 0 } : null;
  }

  private async judgeOutput(channel: ChannelEntry, asker: Asker): Promise<Judgement> {
    const since = this.deps.clock.now();
    const trials: TrialEvidence[] = [];
    for (const trial of kindOf(channel.kind).trials) {
      const evidence = await this.try(channel, trial, asker);
      trials.push(evidence);
      if (evidence.end !== "complete") break;
    }
    const stopped = trials.some(({ end }) => end !== "complete");
    return judgeChannel(channel, {
      trials,
      garbled: this.evidence.garbledSince(since),
      onlyRetained: this.evidence.onlyRetained(channel.address),
      unclaimed: stopped ? await this.evidence.strays() : [],
      pattern: this.deps.presences.patternOf(this.device),
    });
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
  private isSafe({ id, kind, policy }: ChannelEntry): boolean {
    const observed = this.deps.board.observedOf(id);
    if (observed === null) return false;
    if (policy.powerUp === "restore") return this.deps.board.agreementOf(id) === "agreed";
    return observed.value === (policy.safe ?? kindOf(kind).rest);
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
      if (this.over || performance.now() > giveUpAt) return false;
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
    }
    return true;
  }

  private invite(): void {
    for (const { name, state } of this.record.steps) if (state === "waiting") this.change(name, { state: "ready" });
  }

  private settle(name: string, { state, text, tryThis }: Judgement, by: string | null): void {
    this.change(name, { state, text, tryThis, by, at: this.deps.clock.now() });
  }

  private change(name: string, more: Partial<CommissioningStep>): void {
    const steps = this.record.steps.map((step) => (step.name === name ? { ...step, ...more } : step));
    const done = steps.every(({ state }) => state === "passed" || state === "failed" || state === "skipped");
    const finishedAt = done ? this.deps.clock.now() : null;
    this.record = { ...this.record, steps, finishedAt };
    this.deps.keep(this.record);
  }

  private step(name: string): CommissioningStep {
    const step = this.record.steps.find((one) => one.name === name);
    if (!step) throw new RelayError("not-found", { what: `The step “${name}”` });
    return step;
  }

  private channels(): readonly ChannelEntry[] {
    return this.deps.board.channelsOf(this.device);
  }
}
