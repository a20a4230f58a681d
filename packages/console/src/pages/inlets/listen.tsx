/** Listening at an inlet: press the real button, see it arrive, and make a route from it. */
import { type ListenEvent, type ListenedView, ProblemError } from "@bold-relay/api";
import { type Arrival, type InletDescription, inletKinds, outcomeWords } from "@bold-relay/core";
import { useEffect, useState } from "react";
import { Link } from "wouter";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, SectionTitle, Trouble } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";

interface ListenProps {
  readonly inlet: InletDescription;
  readonly onChoose: (arrival: Partial<Arrival>) => void;
}

/** As many as can be looked through. */
const KEPT = 12;

export function Listen({ inlet, onChoose }: ListenProps) {
  const [isOn, setOn] = useState(false);
  return (
    <section aria-label="Listen">
      <SectionTitle>Listen</SectionTitle>
      <p className="mt-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <Button onClick={() => setOn(!isOn)} className={QUIET} aria-pressed={isOn}>
          {isOn ? "Stop listening" : "Listen for arrivals"}
        </Button>
        <span className="text-note text-soft">{about(inlet)}</span>
      </p>
      {isOn && <Heard inlet={inlet} onChoose={onChoose} onEnd={() => setOn(false)} />}
    </section>
  );
}

function about({ kind }: InletDescription): string {
  const { catches } = inletKinds[kind];
  if (catches === "channel")
    return "Press the real button. Everything that inputs do is shown, with or without a route.";
  if (catches === "topic") return "Press the real button. Messages on unassigned topics are shown too.";
  return "Send a message as the caller does. Arrivals that no route catches are shown too.";
}

function Heard({ inlet, onChoose, onEnd }: ListenProps & { readonly onEnd: () => void }) {
  const { slug } = inlet;
  const [heard, setHeard] = useState<readonly (ListenedView & { key: number })[]>([]);
  // null: it is not listened so far, and whoever pressed a button now would press it for nothing.
  const [masks, setMasks] = useState<boolean | null>(null);
  const [skipped, setSkipped] = useState(0);
  const [trouble, setTrouble] = useState<string | null>(null);

  useEffect(() => {
    const stop = new AbortController();
    let key = 0;
    const onEvent = ({ name, data }: ListenEvent) => {
      if (name === "hello") setMasks(data.masks);
      else if (name === "skipped") setSkipped((before) => before + data.count);
      else if (name === "ended") setTrouble(`Listening ended: ${data.why}.`);
      else {
        key += 1;
        const one = { ...data, key };
        setHeard((before) => [one, ...before].slice(0, KEPT));
      }
    };
    client.listenAt(slug, onEvent, stop.signal).catch((error: unknown) => {
      if (stop.signal.aborted) return;
      setTrouble(error instanceof ProblemError ? error.message : "Listening ended: the connection is lost.");
    });
    return () => stop.abort();
  }, [slug]);

  return (
    <div className="mt-3 border-act border-l-[3px] bg-act-wash px-4 py-3">
      {heard.length === 0 && trouble === null && (
        <p role="status" className="font-medium">
          {masks === null ? "Connecting …" : "Waiting for the first arrival …"}
        </p>
      )}
      {masks && (
        <p className="text-note text-soft">
          While all topics are listened to, the broker cannot tell that no device listens to commands.
        </p>
      )}
      {skipped > 0 && <p className="text-note text-soft">Not shown, too many at once: {skipped}.</p>}
      <ol aria-label="Arrivals, newest first" aria-live="polite">
        {heard.map(({ key, at, words, outcome, arrival, requests: [request] }) => (
          <li key={key} className="flex flex-wrap items-baseline gap-x-4 gap-y-0.5 border-hairline border-b py-1.5">
            <span className="text-note text-soft">{when.clockMs(at)}</span>
            <span className="min-w-0 break-all font-mono text-note">{words}</span>
            <span className="text-note text-soft">
              {request === undefined ? (
                became(outcome)
              ) : (
                <Link to={`/log/trace/${request}`} className="text-act underline-offset-2 hover:underline">
                  {became(outcome)}
                </Link>
              )}
            </span>
            {arrival && (
              <Button
                onClick={() => {
                  onChoose(arrival);
                  onEnd();
                }}
                className={`${QUIET} ml-auto`}
              >
                Make a route
              </Button>
            )}
          </li>
        ))}
      </ol>
      <Trouble>{trouble}</Trouble>
    </div>
  );
}

function became(outcome: string): string {
  return outcome === "no-route" ? "no route catches it" : outcomeWords(outcome);
}
