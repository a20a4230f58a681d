/** One device: where it is, what it speaks, and its commissioning, step by step. */
import type { CommissioningView, DeviceView, ProofAnswerBody } from "@bold-relay/api";
import { formatAgo } from "@bold-relay/core";
import { Button } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { client, names, useCommissionings, useDevices } from "../../api/queries.ts";
import { useNow } from "../../live/use-now.ts";
import { QUIET, SectionTitle, ShownOnce, STRONG, Trouble, Twice } from "../../parts/form.tsx";
import { timeOfDay } from "../../parts/words.ts";
import { Presence } from "./devices-page.tsx";

type Step = CommissioningView["steps"][number];

export function DevicePage() {
  const { site, device: slug } = useParams();
  const address = `${site}/${slug}`;
  const { data: devices } = useDevices();
  const now = useNow();
  const device = devices?.find((one) => one.address === address);
  if (!devices) return null;
  if (!device) {
    return (
      <div className="px-5 pt-5">
        <h1 className="text-page">There is no device “{address}”</h1>
        <Link to="/devices" className={QUIET}>
          All devices
        </Link>
      </div>
    );
  }
  return (
    <div className="max-w-[900px] px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <Link to="/devices" className={QUIET}>
        All devices
      </Link>
      <h1 className="text-page">{device.name}</h1>
      <p className="text-soft">
        {device.site.name}, {device.room.name}, <Presence device={device} now={now} />. {device.profile.name}.
      </p>
      <Channels device={device} />
      <Access device={device} />
      <Commissioning address={address} now={now} />
    </div>
  );
}

function Channels({ device: { channels } }: { device: DeviceView }) {
  return (
    <section aria-label="Channels">
      <SectionTitle>Channels and their topics</SectionTitle>
      <ul>
        {channels.map(({ address, name, kind, index, topics }) => (
          <li
            key={address}
            className="grid grid-cols-[40px_220px_minmax(0,1fr)] gap-x-4 border-hairline border-b py-2 max-md:grid-cols-[40px_minmax(0,1fr)]"
          >
            <span className="text-right text-note text-soft">{index}</span>
            <span>
              <span className="font-medium">{name}</span> <span className="text-note text-soft">{kind}</span>
            </span>
            <span className="min-w-0 break-all font-mono text-note text-soft max-md:col-start-2">
              {[topics.do && `→ ${topics.do}`, topics.done && `← ${topics.done}`, topics.is && `← ${topics.is}`]
                .filter((topic) => topic !== null)
                .map((topic) => (
                  <span key={topic} className="block">
                    {topic}
                  </span>
                ))}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What it shows at the broker. The service makes it, if it may. */
function Access({ device: { address, users } }: { device: DeviceView }) {
  const queries = useQueryClient();
  const [made, setMade] = useState<{ username: string; password: string } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: Promise<unknown>) => {
    setTrouble(null);
    await work.catch((error: Error) => setTrouble(error.message));
    await queries.invalidateQueries({ queryKey: names.devices });
  };
  return (
    <section aria-label="Access to the broker">
      <SectionTitle>Access to the broker</SectionTitle>
      <ul>
        {users.map(({ username, madeAt, retiresAt }) => (
          <li key={username} className="flex flex-wrap items-baseline gap-x-4 border-hairline border-b py-2">
            <span className="font-mono text-note">{username}</span>
            <span className="text-note text-soft">
              made {new Date(madeAt).toLocaleString()}
              {retiresAt !== null && `, counts until ${new Date(retiresAt).toLocaleString()}`}
            </span>
          </li>
        ))}
      </ul>
      {users.length === 0 && (
        <p className="mt-3 text-soft">
          The service has made no user for it. Its own topics only, and nothing beyond, is what one may do.
        </p>
      )}
      <Trouble>{trouble}</Trouble>
      <p className="mt-3 flex flex-wrap items-center gap-4">
        <Button
          onClick={() => void act(client.makeCredentials(address, users.length > 0 ? 24 : 0).then(setMade))}
          className={QUIET}
        >
          {users.length > 0 ? "Make another, with a day of overlap" : "Make a user and a password"}
        </Button>
        {users.length > 0 && (
          <Twice
            verb="Revoke"
            sure="Revoke all, and cut it off"
            onSure={() => void act(client.revokeCredentials(address))}
          />
        )}
      </p>
      {made && (
        <ShownOnce what={`The password of ${made.username}`} secret={made.password} onClose={() => setMade(null)} />
      )}
    </section>
  );
}

function Commissioning({ address, now }: { address: string; now: number }) {
  const { data: runs } = useCommissionings(address);
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: Promise<unknown>) => {
    setTrouble(null);
    await work.catch((error: Error) => setTrouble(error.message));
    await queries.invalidateQueries({ queryKey: names.commissionings(address) });
  };
  const [current, ...before] = runs ?? [];
  const underWay = current?.steps.some(({ state }) => state !== "waiting") && current.finishedAt === null;
  return (
    <section aria-label="Commissioning">
      <SectionTitle>Commissioning</SectionTitle>
      {runs && !current && (
        <p className="mt-3 max-w-[560px] text-soft">
          It was never proven. Each hop is proven before the next one: link, presence, every channel, a change by hand,
          a power cut. Nothing is switched before you say so.
        </p>
      )}
      {current && (
        <p className="mt-3 text-soft">
          {underWay ? "Begun" : "Proven"} by {current.startedBy}, {formatAgo(now - Date.parse(current.startedAt))}.{" "}
          {summary(current)}
        </p>
      )}
      <ol>
        {current?.steps.map((step) => (
          <StepRow key={step.name} step={step} onSay={(body) => void act(client.proofStep(address, body))} />
        ))}
      </ol>
      <Trouble>{trouble}</Trouble>
      <p className="mt-4">
        <Button onClick={() => void act(client.commission(address))} className={STRONG}>
          {current ? "Prove it anew" : "Prove it"}
        </Button>
      </p>
      {before.length > 0 && (
        <ul className="mt-4 text-note text-soft">
          {before.map((run) => (
            <li key={run.id}>
              {timeOfDay(run.startedAt)}, {run.startedBy}: {summary(run)}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

const SIGNS = { passed: "✓", failed: "✗", skipped: "–", asks: "?", ready: "", waiting: "", running: "…" } as const;

function StepRow({ step, onSay }: { step: Step; onSay: (body: ProofAnswerBody) => void }) {
  const { name, title, state, invites, text, tryThis } = step;
  const say = (answer: ProofAnswerBody["answer"]) => onSay({ step: name, answer });
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
        {tryThis && (
          <p className="text-note">
            <span className="font-semibold">Try this:</span> {tryThis}
          </p>
        )}
        {(state === "ready" || state === "running") && invites && <p className="text-note text-soft">{invites}</p>}
      </div>
      <div className="flex items-start gap-3 max-md:col-start-2 max-md:mt-1.5">
        {state === "asks" && (
          <>
            <Answer label="Yes" onPress={() => say("yes")} />
            <Answer label="No" onPress={() => say("no")} />
            <Answer label="The opposite" onPress={() => say("turned")} />
          </>
        )}
        {(state === "ready" || isFailed) && (
          <Answer label={isFailed ? "Try again" : "Begin"} onPress={() => say("go")} />
        )}
        {(state === "ready" || isFailed) && (
          <Button onClick={() => say("skip")} className={QUIET} aria-label={`Leave out: ${title}`}>
            Leave out
          </Button>
        )}
      </div>
    </li>
  );
}

const WORDS = {
  passed: "passed",
  failed: "failed",
  skipped: "left out",
  asks: "you say",
  ready: "",
  waiting: "waits for the steps before",
  running: "under way",
} as const;

function Answer({ label, onPress }: { label: string; onPress: () => void }) {
  return (
    <Button
      onClick={onPress}
      className="h-7 rounded-key border border-soft px-2.5 font-semibold text-act text-note data-hover:bg-act-wash max-md:h-10"
    >
      {label}
    </Button>
  );
}

function summary({ steps }: CommissioningView): string {
  const count = (state: Step["state"]) => steps.filter((step) => step.state === state).length;
  const failed = count("failed");
  const skipped = count("skipped");
  return `${count("passed")} of ${steps.length} steps passed${failed ? `, ${failed} failed` : ""}${skipped ? `, ${skipped} left out` : ""}.`;
}
