/**
 * Requests that chase themselves: a command of ours that an outside system answers with a request at the same inlet, and so on
 * for ever. Whoever hands on the trace of what it heard (W3C Trace Context) is found out by it: the same trace comes in again
 * and again. Who does not is held back by the inlet's limit only.
 */
import { traceIdIn } from "@bold-relay/core";

/** A chain may pass here more than once for a good reason, but not for long. */
const MOST_PASSES = 3;
const MOST_TRACES = 10_000;

export class LoopDetector {
  /** How often each trace came by, the one that was quiet for longest first. */
  private readonly passes = new Map<string, number>();

  /** Whether it has, without counting. */
  wasRound(traceparent: string | null): boolean {
    return traceparent !== null && (this.passes.get(traceIdIn(traceparent)) ?? 0) > MOST_PASSES;
  }

  /** Counts a pass. @returns whether this trace has come by too often */
  isRound(traceparent: string | null): boolean {
    if (traceparent === null) return false;
    const trace = traceIdIn(traceparent);
    const passes = (this.passes.get(trace) ?? 0) + 1;
    this.passes.delete(trace);
    this.passes.set(trace, passes);
    const [oldest] = this.passes.keys();
    if (this.passes.size > MOST_TRACES && oldest !== undefined) this.passes.delete(oldest);
    return passes > MOST_PASSES;
  }
}
