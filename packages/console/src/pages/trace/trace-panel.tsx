/** The trace of a request: first the plain sentence, then every hop on one line of time. */
import type { RequestView, TraceView } from "@bold-relay/api";
import type { Tone } from "@bold-relay/core";
import { Button } from "@headlessui/react";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useTrace } from "../../api/queries.ts";
import { WideStageTrack } from "../../parts/stage-track.tsx";
import { useAsk } from "../board/use-ask.ts";
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
  const title = first
    ? `${first.command.channelName}, ${first.command.room}: ${first.command.to}`
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
        Asked by {trace.asker}, {trace.inlet}, {timeWords(trace.at)}
      </p>
      {trace.refusal && <VerdictNote tone="bad" headline={`${trace.refusal.title}.`} text={trace.refusal.detail} />}
      {trace.traces.map(({ command, device, hops }) => (
        <section key={command.id}>
          <VerdictNote {...command.verdict} />
          <Actions request={trace} address={command.channel} pathOf={pathOf} />
          <div className="mt-5">
            <WideStageTrack command={command} />
          </div>
          <HopLine command={command} hops={hops} />
          <p className="mt-4 text-note text-soft">
            By the {device.name},{" "}
            {device.present === null ? "never heard of" : device.present ? "on the broker now" : "off the broker now"}.
          </p>
        </section>
      ))}
    </>
  );
}

const TONE: Record<Tone, string> = {
  good: "border-ink bg-enclosure",
  weak: "border-soft border-dashed bg-enclosure",
  open: "border-act bg-act-wash",
  bad: "border-wrong bg-wrong-wash",
  moot: "border-soft bg-enclosure",
};

function VerdictNote({ tone, headline, text }: { tone: Tone; headline: string; text: string }) {
  return (
    <p className={`mt-4 border-l-[3px] px-3 py-2.5 ${TONE[tone]}`} aria-live="polite">
      <strong className="font-semibold">{headline}</strong> {text}
    </p>
  );
}

interface ActionsProps {
  readonly request: RequestView;
  readonly address: string;
  readonly pathOf: (request: string) => string;
}

function Actions({ request, address, pathOf }: ActionsProps) {
  const [command] = request.commands;
  const navigate = useNavigate();
  const { pressed, trouble, ask } = useAsk(address);
  const [copied, setCopied] = useState(false);
  if (!command) return null;
  const again = async () => {
    const id = await ask(command.to);
    if (id !== null) void navigate(pathOf(id));
  };
  const copy = async () => {
    const { headline, text } = command.verdict;
    await navigator.clipboard.writeText(
      `${command.channelName}, ${command.room}: ${command.to}, asked ${timeWords(request.at)}. ${headline} ${text}`,
    );
    setCopied(true);
  };
  const stopped = command.end !== null && command.end !== "complete";
  const strong = "bg-act text-letters";
  const quiet = "border border-soft text-ink data-hover:border-act data-hover:text-act";
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
        {copied ? "Copied" : "Copy the answer"}
      </Button>
      {trouble && (
        <p role="alert" className="w-full text-note text-wrong">
          Not taken. {trouble}
        </p>
      )}
    </div>
  );
}

function timeWords(at: string): string {
  const time = new Date(at);
  const ms = String(time.getMilliseconds()).padStart(3, "0");
  const day = time.toDateString() === new Date().toDateString() ? "" : `${time.toLocaleDateString()} `;
  return `${day}${time.toLocaleTimeString([], { hour12: false })}.${ms}`;
}
