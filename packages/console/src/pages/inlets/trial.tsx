/** Trying for real: the arrival that was rehearsed goes through the inlet's own socket, and what it asks is done. */
import type { TrialView } from "@bold-relay/api";
import { type Arrival, formatDuration, type InletKind, inletKinds, shortened } from "@bold-relay/core";
import { Field, Input, Label } from "@headlessui/react";
import { useState } from "react";
import { Link } from "wouter";
import { client } from "../../api/client.ts";
import { FIELD, Trouble, Twice } from "../../parts/form.tsx";

interface TrialProps {
  readonly slug: string;
  readonly kind: InletKind;
  /** What is described is not what is saved: only what is saved can be tried. */
  readonly isChanged: boolean;
  readonly arrival: () => Partial<Arrival>;
}

/** Characters of a message. */
const MOST_SHOWN = 240;

export function Trial({ slug, kind, isChanged, arrival }: TrialProps) {
  const { proof } = inletKinds[kind];
  const [key, setKey] = useState("");
  const [trial, setTrial] = useState<TrialView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const run = async () => {
    setTrouble(null);
    setTrial(null);
    try {
      setTrial(await client.tryInlet(slug, { arrival: arrival(), ...(key === "" ? {} : { key }) }));
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section aria-label="Test request" className="mt-5">
      <div className="flex flex-wrap items-end gap-4">
        {proof !== "none" && (
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">
              Key of the inlet{proof === "key or signature" ? " (empty: the request is signed)" : ""}
            </Label>
            <Input
              type="password"
              autoComplete="off"
              value={key}
              onChange={(event) => setKey(event.target.value)}
              className={`${FIELD} font-mono`}
            />
          </Field>
        )}
        <span className="flex h-9 items-center">
          {isChanged ? (
            <span className="text-note text-soft">Save the inlet before you send a test request.</span>
          ) : (
            <Twice verb="Send test request" sure="Send it: the channels will switch" onSure={() => void run()} />
          )}
        </span>
      </div>
      <Trouble>{trouble}</Trouble>
      {trial && <Tried trial={trial} />}
    </section>
  );
}

function Tried({ trial: { exchanges, requests, tookMs } }: { trial: TrialView }) {
  return (
    <div role="status" className="mt-3 border-act border-l-[3px] bg-act-wash px-4 py-3 text-note">
      {exchanges.map(({ sent, got }, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the same key may be pressed twice
        <dl key={index} className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-3 gap-y-0.5">
          <dt className="font-medium">sent</dt>
          <dd className="break-all font-mono">{shortened(sent, MOST_SHOWN)}</dd>
          <dt className="font-medium">got</dt>
          <dd className="whitespace-pre-wrap break-all font-mono">{shortened(got, MOST_SHOWN)}</dd>
        </dl>
      ))}
      <p className="mt-2">
        {requests.length === 0 ? "No request was made." : "Trace: "}
        {requests.map((id, index) => (
          <Link
            key={id}
            to={`/log/trace/${id}`}
            className="mr-3 font-semibold text-act underline-offset-2 hover:underline"
          >
            {requests.length === 1 ? "open trace" : `request ${index + 1}`}
          </Link>
        ))}
        <span className="text-soft">In {formatDuration(tookMs)}.</span>
      </p>
    </div>
  );
}
