/** Requests and commands, as the service answers them. Times are RFC 3339 in UTC with ms; durations are ms with fractions. */
import type {
  DevicePresence,
  End,
  Hop,
  IgnoredWords,
  Outcome,
  RawMessage,
  Reason,
  Remark,
  RequesterKind,
  Said,
  Stage,
  TargetStage,
  Value,
  Verdict,
} from "@bold-relay/core";
import type { Problem } from "./problem.ts";

/** One command: how far it got and how it ended. */
export interface CommandView {
  id: string;
  requestId: string;
  /** The channel's address. */
  channel: string;
  channelName: string;
  room: string;
  to: Value;
  /** The setpoint as people say it: "on", "35 %". */
  toText: string;
  /** It overtakes everything, and is tried until it is proven or a person closes it. */
  urgent: boolean;
  /** For how long it was asked, ms; null: for good. */
  forMs: number | null;
  targetStage: TargetStage;
  stage: Stage;
  end: End | null;
  reason: Reason | null;
  attempts: number;
  /** The device's own result code; null: it gave none. */
  code: number | null;
  askedAt: string;
  /** When each stage was proven, ms after the request; null for a hop that was never seen. */
  after: {
    accepted: number | null;
    published: number | null;
    acknowledged: number | null;
    confirmed: number | null;
    ended: number | null;
  };
  requester: RequesterKind;
  /** Who asked, and through which inlet; of an inlet the sender that it claims. */
  asker: string;
  inlet: string;
  verdict: Verdict;
  /** Confirmed by something else that sees the channel, not by its own device. */
  measured: boolean;
  /** What was reported as its proof, in words, where that is another value than `to`; null: it is not. */
  reported: string | null;
  /** What the device said while the command was open that proved nothing, and what to do; null: nothing of that kind. */
  ignored: IgnoredWords | null;
}

/** How a request went, and nothing else: the answer to who prefers `return=minimal` (RFC 7240, section 4.2). */
export type BriefView = Pick<RequestView, "id" | "outcome">;

/** One arrival with what became of it. */
export interface RequestView {
  id: string;
  at: string;
  /** A member who has shown who they are, an inlet with the sender that it claims, or a rule of ours. */
  requester: RequesterKind;
  inlet: string;
  asker: string;
  target: string;
  action: string;
  /** As it was asked; what it became after clamping is its command's “to”. */
  value: number | string | null;
  forMs: number | null;
  /** What came in at the inlet and how it was read; null where it was asked just so. */
  said: Said | null;
  /** The caller's place in a trace of its own (W3C Trace Context); null: it brought none. */
  traceparent: string | null;
  outcome: Outcome;
  /** Why it was refused or matched nothing; null when it was accepted. */
  refusal: Problem | null;
  commands: CommandView[];
}

/** GET /api/v1/requests */
export interface LogPage {
  requests: RequestView[];
  /** Hand it back as `before` for the page after this one; null when there is none. */
  next: string | null;
}

/** One hop of a trace. */
export interface HopView {
  kind: Hop["kind"];
  /** ms after the request. */
  afterMs: number;
  attempt?: number;
  code?: number;
  wire?: RawMessage;
  /** Of `sent`: the device was asked in the same moment what it is, for it seemed to be so already. */
  asked?: true;
  /** Of `confirmed`: the channel was so already. */
  already?: true;
  /** Of `confirmed`: measured by something else than its own device. */
  measured?: true;
  /** Of `confirmed`: what was reported, where that is another value than the commanded one. */
  value?: Value;
  /** Of `ignored`: what it was taken for, and why it proved nothing. */
  remark?: Remark;
  /** Of `closed`: who closed it, and why. Of `refused` and `doubted`: what was said. */
  note?: string;
}

/** What was said back to whoever asked. */
export interface ReplyView {
  /** ms after the request. */
  afterMs: number;
  /** As the answer to the call, posted to an address, published on a topic, or typed into a session. */
  how: "answer" | "post" | "topic" | "typed";
  said: string;
  /** Whether the other side took it, as far as its connection tells. */
  taken: boolean;
  /** Why not; null when it was. */
  why: string | null;
}

/** Everything about one request, in order, with times. */
export interface TraceView extends RequestView {
  /** The trace that its commands carry (W3C Trace Context): the caller's, or its own. 32 hexadecimal digits. */
  traceId: string;
  /** Oldest first. */
  replies: ReplyView[];
  traces: {
    command: CommandView;
    /** The device in words, and whether it is on the broker. */
    device: { name: string; presence: DevicePresence };
    hops: HopView[];
  }[];
}
