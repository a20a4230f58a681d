/** A device proven step by step: the run that stands, what each step came to, and how it was last time. */
import type { CommissioningView, StepAnswerBody } from "@bold-relay/api";
import { formatAgo, stepsBefore } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useCommissionings } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, SectionTitle, STRONG, Trouble } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";

type Step = CommissioningView["steps"][number];

export function Commissioning({ address, now }: { address: string; now: number }) {
  const { data: runs } = useCommissionings(address);
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: Promise<unknown>) => {
    setTrouble(null);
    await work.catch((error: Error) => setTrouble(error.message));
    await queries.invalidateQueries({ queryKey: names.commissionings(address) });
  };
  const [current, ...before] = runs ?? [];
  const was = current ? stepsBefore(current.steps, before.find((one) => one.finishedAt !== null)?.steps ?? []) : {};
  const underWay = current?.steps.some(({ state }) => state !== "waiting") && current.finishedAt === null;
  return (
    <section aria-label="Commissioning">
      <SectionTitle>Commissioning</SectionTitle>
      {runs && !current && (
        <p className="mt-3 max-w-[560px] text-soft">
          Not commissioned. The steps check the broker link, presence, every channel, a change by hand and a power cut.
          Nothing is switched before you start a step.
        </p>
      )}
      {current && (
        <p className="mt-3 text-soft">
          {underWay || current.interrupted ? "Started" : "Finished"} by {current.startedBy},{" "}
          {formatAgo(now - Date.parse(current.startedAt))}. {summary(current)}
          {current.interrupted && " Interrupted: the service stopped during the run. Start again."}
        </p>
      )}
      <ol>
        {current?.steps.map((step) => (
          <StepRow
            key={step.name}
            step={current.interrupted ? { ...step, state: standing(step.state) } : step}
            was={was[step.name] ?? null}
            onSay={(body) => void act(client.commissioningStep(address, body))}
          />
        ))}
      </ol>
      <Trouble>{trouble}</Trouble>
      <p className="mt-4">
        <Button onClick={() => void act(client.commission(address))} className={STRONG}>
          {current ? "Commission again" : "Start commissioning"}
        </Button>
        {current && (
          <Link to={`/devices/${address}/record`} className={`${QUIET} ml-4`}>
            Commissioning record
          </Link>
        )}
      </p>
      {before.length > 0 && (
        <ul className="mt-4 text-note text-soft">
          {before.map((run) => (
            <li key={run.id}>
              {when.clock(run.startedAt)}, {run.startedBy}: {summary(run)}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

export const SIGNS = {
  passed: "✓",
  failed: "✗",
  skipped: "–",
  asks: "?",
  ready: "",
  waiting: "",
  running: "…",
} as const;

interface StepRowProps {
  readonly step: Step;
  /** What it came to last time, if that was something else. */
  readonly was: Step["state"] | null;
  readonly onSay: (body: StepAnswerBody) => void;
}

function StepRow({ step, was, onSay }: StepRowProps) {
  const { name, title, state, invites, text, tryThis } = step;
  const say = (answer: StepAnswerBody["answer"]) => onSay({ step: name, answer });
  const isFailed = state === "failed";
  return (
    <li
      className="grid grid-cols-[24px_minmax(0,1fr)_auto] gap-x-3 border-hairline border-b py-2.5 max-md:grid-cols-[24px_minmax(0,1fr)]"
      data-step={name}
      data-state={state}
    >
      <span aria-hidden="true" className={`font-semibold ${isFailed ? "text-wrong" : ""}`}>
        {SIGNS[state]}
      </span>
      <div className="min-w-0" aria-live="polite">
        <p className={state === "waiting" ? "text-soft" : "font-medium"}>
          {title}
          <span className={`ml-2 font-normal text-note ${isFailed ? "text-wrong" : "text-soft"}`}>{WORDS[state]}</span>
        </p>
        {text && <p className="text-note">{text}</p>}
        {was && <p className="text-note text-soft">Last time: {WORDS[was]}.</p>}
        {tryThis && (
          <p className="text-note">
            <span className="font-semibold">Try this:</span> {tryThis}
          </p>
        )}
        {(state === "ready" || state === "running") && invites && <p className="text-note text-soft">{invites}</p>}
      </div>
      <div className="flex items-center gap-3 self-start max-md:col-start-2 max-md:mt-1.5">
        {state === "asks" && (
          <>
            <Answer label="Yes" onPress={() => say("yes")} />
            <Answer label="No" onPress={() => say("no")} />
            <Answer label="Opposite" onPress={() => say("turned")} />
          </>
        )}
        {(state === "ready" || isFailed) && <Answer label={isFailed ? "Retry" : "Start"} onPress={() => say("go")} />}
        {(state === "ready" || isFailed) && (
          <Button onClick={() => say("skip")} className={QUIET} aria-label={`Skip: ${title}`}>
            Skip
          </Button>
        )}
      </div>
    </li>
  );
}

/** Of an interrupted run nothing goes on. */
function standing(state: Step["state"]): Step["state"] {
  return state === "passed" || state === "failed" || state === "skipped" ? state : "waiting";
}

export const WORDS = {
  passed: "passed",
  failed: "failed",
  skipped: "skipped",
  asks: "your answer is needed",
  ready: "",
  waiting: "waiting for the steps before",
  running: "running",
} as const;

function Answer({ label, onPress }: { label: string; onPress: () => void }) {
  return (
    <Button
      onClick={onPress}
      className="h-7 rounded-key border border-soft px-2.5 font-semibold text-act text-note hover:bg-act-wash max-md:h-10"
    >
      {label}
    </Button>
  );
}

export function summary({ steps }: CommissioningView): string {
  const count = (state: Step["state"]) => steps.filter((step) => step.state === state).length;
  const failed = count("failed");
  const skipped = count("skipped");
  return `${count("passed")} of ${steps.length} steps passed${failed ? `, ${failed} failed` : ""}${skipped ? `, ${skipped} left out` : ""}.`;
}
