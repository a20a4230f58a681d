/**
 * One device being proven. Steps that need nobody run by themselves; the others begin when a person says so, for they
 * switch things or need hands. Every change is kept at once.
 */
import {
  type Asker,
  type CommissioningStep,
  failed,
  isOver,
  type Judgement,
  passed,
  RelayError,
  stepsOf,
  withoutRepeating,
} from "@bold-relay/core";
import type { Wire } from "../broker/wire.ts";
import type { CommissioningRecord } from "../store/commissionings.ts";
import { Evidence } from "./evidence.ts";
import { StepChecks, type StepChecksDeps } from "./step-checks.ts";

export interface CommissioningRunDeps extends StepChecksDeps {
  readonly wire: Wire;
  /** Keeps the record as it is now. */
  readonly keep: (record: CommissioningRecord) => void;
}

export class CommissioningRun {
  readonly device: string;
  record: CommissioningRecord;
  private readonly deps: CommissioningRunDeps;
  private readonly evidence: Evidence;
  private readonly checks: StepChecks;
  private over = false;
  private running: string | null = null;

  constructor(deps: CommissioningRunDeps, device: string, base: Pick<CommissioningRecord, "id" | "startedBy">) {
    const channels = deps.board.channelsOf(device);
    const [first] = channels;
    if (!first) throw new RelayError("not-found", { what: `The device ${device}` });
    this.deps = deps;
    this.device = device;
    this.evidence = new Evidence(deps.wire, device, () => deps.board.channelsOf(device));
    this.checks = new StepChecks(deps, device, this.evidence, () => this.over);
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
      const judgement = withoutRepeating(await this.checks.judge(name, asker), advised);
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

  private invite(): void {
    for (const { name, state } of this.record.steps) if (state === "waiting") this.change(name, { state: "ready" });
  }

  private settle(name: string, { state, text, tryThis }: Judgement, by: string | null): void {
    this.change(name, { state, text, tryThis, by, at: this.deps.clock.now() });
  }

  private change(name: string, more: Partial<CommissioningStep>): void {
    const steps = this.record.steps.map((step) => (step.name === name ? { ...step, ...more } : step));
    const done = steps.every(isOver);
    const finishedAt = done ? this.deps.clock.now() : null;
    this.record = { ...this.record, steps, finishedAt };
    this.deps.keep(this.record);
  }

  private step(name: string): CommissioningStep {
    const step = this.record.steps.find((one) => one.name === name);
    if (!step) throw new RelayError("not-found", { what: `The step “${name}”` });
    return step;
  }
}
