/** The trace of a request: first the plain sentence, then every hop on one line of time. */
import type { CommandView, ReplyView, RequestView, TraceView } from "@bold-relay/api";
import {
  formatDuration,
  presenceWords,
  requestElement,
  requesterText,
  type Severity,
  setpointAsk,
} from "@bold-relay/core";
import { useEffect, useState } from "react";
import { Link, useLocation } from "wouter";
import { useTrace } from "../../api/board.ts";
import { operate } from "../../api/operate.ts";
import { useMay } from "../../api/session.ts";
import { Button } from "../../parts/button.tsx";
import { ReasonDialog } from "../../parts/reason-dialog.tsx";
import { WideStageTrack } from "../../parts/stage-track.tsx";
import { when } from "../../parts/time.ts";
import { useAsk, type Wish } from "../board/use-ask.ts";
import { HopLine } from "./hop-line.tsx";

interface TracePanelProps {
  readonly request: string;
  /** Where the trace of another request is shown on this page. */
  readonly pathOf: (request: string) => string;
  readonly onClose: () => void;
}

export function TracePanel({ request, pathOf, onClose }: TracePanelProps) {
  const { data: trace, error } = useTrace(request);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "Escape") onClose();
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  }, [onClose]);
  return (
    <aside
      aria-label="Trace"
      className="sticky top-0 h-dvh w-[340px] shrink-0 overflow-y-auto border-rule border-l bg-sheet px-5 pt-5 pb-8 max-[1179px]:fixed max-[1179px]:right-0 max-[1179px]:z-10 max-md:w-full max-md:border-l-0"
    >
      {error && !trace && <p role="alert">{error.message}</p>}
      {trace && <Trace trace={trace} pathOf={pathOf} onClose={onClose} />}
    </aside>
  );
}

function Trace({ trace, pathOf, onClose }: { trace: TraceView } & Omit<TracePanelProps, "request">) {
  const [first] = trace.traces;
  const [mayOperate, mayBuild] = [useMay("operate"), useMay("build")];
  const single = first && trace.traces.length === 1;
  const title = single
    ? `${first.command.channelName}, ${first.command.room}: ${first.command.toText}`
    : `“${trace.target}” ${trace.action}`;
  return (
    <>
      <header className="flex items-start justify-between gap-3">
        <h2 className="text-title" aria-live="polite">
          {title}
        </h2>
        <Button onClick={onClose} className="text-act text-note underline-offset-2 hover:underline">
          Close
        </Button>
      </header>
      <p className="mt-0.5 text-note text-soft">
        Requested by {requesterText(trace.requester, trace.asker, trace.inlet)}, {when.clockMs(trace.at)}
      </p>
      {mayOperate && (
        <p className="mt-0.5 text-note">
          <Link to={`/map?of=${encodeURIComponent(requestElement(trace))}`} className="text-act hover:underline">
            What else this can reach
          </Link>
        </p>
      )}
      {trace.requester === "inlet" && trace.said?.arrival && mayBuild && (
        <p className="mt-0.5 text-note">
          <Link to={`/inlets/${trace.inlet}?from=${trace.id}`} className="text-act hover:underline">
            Make a route from this request
          </Link>
        </p>
      )}
      {trace.said && <Said said={trace.said} />}
      {trace.traceparent !== null && (
        <p className="mt-2 break-all text-note text-soft">
          Trace of the caller: <span className="font-mono">{trace.traceId}</span>
        </p>
      )}
      {trace.refusal && <VerdictNote severity="bad" headline={`${trace.refusal.title}.`} text={trace.refusal.detail} />}
      {trace.traces.map(({ command, device, hops }) => (
        <section key={command.id} className={single ? "" : "mt-6 border-rule border-t pt-4"}>
          {!single && (
            <h3 className="font-plate font-semibold">
              {command.channelName}, {command.room}: {command.toText}
            </h3>
          )}
          <AskedOtherwise request={trace} command={command} />
          <VerdictNote {...command.verdict} />
          <Actions request={trace} command={command} pathOf={pathOf} />
          <div className="mt-5">
            <WideStageTrack command={command} />
          </div>
          <HopLine command={command} hops={hops} />
          <p className="mt-4 text-note">
            <Link to={`/history/${command.channel}`} className="text-act hover:underline">
              History of {command.channelName}, {command.room}
            </Link>
          </p>
          <p className="mt-2 text-note text-soft">
            Device: {device.name},{" "}
            {["online", "offline"].includes(device.presence)
              ? `${device.presence} now`
              : presenceWords(device.presence)}
            .
          </p>
        </section>
      ))}
      {trace.replies.length > 0 && <Replies replies={trace.replies} />}
    </>
  );
}

const HOW: Record<ReplyView["how"], string> = {
  answer: "Answered",
  post: "Posted back",
  topic: "Published back",
  typed: "Typed back",
};

/** What was said back, and whether it was taken. */
function Replies({ replies }: { replies: readonly ReplyView[] }) {
  return (
    <section aria-label="Replies" className="mt-6 border-rule border-t pt-4 text-note">
      {replies.map(({ afterMs, how, said, taken, why }) => (
        <p key={`${afterMs} ${how}`} className="mt-1.5 first:mt-0">
          <span className="text-soft">
            {HOW[how]} after {formatDuration(afterMs)}:
          </span>{" "}
          “{said}”{!taken && <span className="font-semibold text-wrong"> Not delivered: {why}.</span>}
        </p>
      ))}
    </section>
  );
}

/** What came in, and which of its words gave what. */
function Said({ said: { words, route, used } }: { said: NonNullable<RequestView["said"]> }) {
  return (
    <div className="mt-3 border-soft border-l-[3px] px-3 py-1 text-note">
      <p>
        “{words}”{route !== null && <span className="text-soft">, matched by route {route}</span>}
      </p>
      {used
        .filter(({ words: said, gave }) => said !== gave)
        .map(({ words: said, gave }) => (
          <p key={`${said} ${gave}`} className="text-soft">
            {said} → {gave}
          </p>
        ))}
    </div>
  );
}

const TONE: Record<Severity, string> = {
  good: "border-ink bg-enclosure",
  weak: "border-soft border-dashed bg-enclosure",
  open: "border-act bg-act-wash",
  bad: "border-wrong bg-wrong-wash",
  replaced: "border-soft bg-enclosure",
};

function VerdictNote({ severity, headline, text }: { severity: Severity; headline: string; text: string }) {
  return (
    <p className={`mt-4 border-l-[3px] px-3 py-2.5 ${TONE[severity]}`} aria-live="polite">
      <strong className="font-semibold">{headline}</strong> {text}
    </p>
  );
}

interface ActionsProps {
  readonly request: RequestView;
  readonly command: CommandView;
  readonly pathOf: (request: string) => string;
}

function Actions({ request, command, pathOf }: ActionsProps) {
  const [, navigate] = useLocation();
  const { pressed, trouble, ask } = useAsk(command.channel);
  const [copied, setCopied] = useState(false);
  const again = async () => {
    const id = await ask(sameAgain(command));
    if (id !== null) navigate(pathOf(id));
  };
  const copy = async () => {
    const { headline, text } = command.verdict;
    await navigator.clipboard.writeText(
      `${command.channelName}, ${command.room}: ${command.toText}, requested ${when.clockMs(request.at)}. ${headline} ${text}`,
    );
    setCopied(true);
  };
  const stopped = command.end !== null && command.end !== "delivered";
  const strong = "bg-act text-letters";
  const quiet = "border border-soft text-ink hover:border-act hover:text-act";
  return (
    <div className="mt-3 flex flex-wrap gap-2">
      <Button
        disabled={pressed !== null}
        onClick={() => void again()}
        className={`h-8 rounded-key px-3 font-semibold text-note disabled:opacity-60 ${stopped ? strong : quiet}`}
      >
        Send again
      </Button>
      <Button onClick={() => void copy()} className={`h-8 rounded-key px-3 font-semibold text-note ${quiet}`}>
        {copied ? "Copied" : "Copy result"}
      </Button>
      {command.urgent && command.end === null && <GiveUp request={request} className={quiet} />}
      {trouble && (
        <p role="alert" className="w-full text-note text-wrong">
          {trouble}
        </p>
      )}
    </div>
  );
}

/** The same setpoint, whatever the words were that asked for it. */
function sameAgain({ to, urgent }: CommandView): Wish {
  return urgent && to === 0 ? { action: "stop" } : setpointAsk(to);
}

/** What the channel's range, or a time, made of the asking. */
function AskedOtherwise({ request, command }: { request: RequestView; command: CommandView }) {
  const notes: string[] = [];
  if (request.action === "level" && request.value !== null && request.value !== command.to)
    notes.push(`Requested: ${request.value}. The range of the channel makes it ${command.toText}.`);
  if (command.forMs !== null) notes.push(`For ${formatDuration(command.forMs)}, then off again.`);
  return notes.length === 0 ? null : <p className="mt-2 text-note text-soft">{notes.join(" ")}</p>;
}

/** An urgent command is tried until it is proven, or until somebody says that it need not be. */
function GiveUp({ request, className }: { request: RequestView; className: string }) {
  const [asking, setAsking] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const close = (reason: string) =>
    operate.cancel(request.id, { reason }).then(
      () => setAsking(false),
      (error: Error) => setTrouble(error.message),
    );
  return (
    <>
      <Button onClick={() => setAsking(true)} className={`h-8 rounded-key px-3 font-semibold text-note ${className}`}>
        Cancel request
      </Button>
      <ReasonDialog
        open={asking}
        title="Cancel this request?"
        text="An urgent command is sent until the device proves it. Check the channel itself first."
        verb="Cancel request"
        trouble={trouble}
        onClose={() => setAsking(false)}
        onReason={(reason) => void close(reason)}
      />
    </>
  );
}
