/** Rehearsing: an arrival is made up, and what it would do is shown while it is typed. Nothing is sent. */
import type { RehearsalView } from "@bold-relay/api";
import { type Arrival, type InletDescription, inletKinds } from "@bold-relay/core";
import { Field, Input, Label } from "@headlessui/react";
import { useEffect, useState } from "react";
import { client } from "../../api/client.ts";
import { FIELD, SectionTitle, Trouble } from "../../parts/form.tsx";
import { Trial } from "./trial.tsx";

interface RehearsalProps {
  readonly slug: string;
  /** As it is described now, saved or not. */
  readonly inlet: InletDescription;
  readonly first: Partial<Arrival>;
  /** It is not what is saved. */
  readonly isChanged: boolean;
}

type Name = keyof Arrival;

/** How long typing rests before it is asked what that would do, ms. */
const REST_MS = 200;

export function Rehearsal({ slug, inlet, first, isChanged }: RehearsalProps) {
  const fields = inletKinds[inlet.kind].typed;
  const [typed, setTyped] = useState<Partial<Record<Name, string>>>(() => typedFrom(first));
  const [view, setView] = useState<RehearsalView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const asked = JSON.stringify([inlet, typed]);

  useEffect(() => {
    const [described, words] = JSON.parse(asked) as [InletDescription, Partial<Record<Name, string>>];
    let stale = false;
    const timer = setTimeout(() => {
      Promise.resolve()
        .then(() => client.rehearse(slug, { inlet: described, arrival: arrivalOf(words) }))
        .then(
          (told) => {
            if (stale) return;
            setView(told);
            setTrouble(null);
          },
          (error: Error) => {
            if (!stale) setTrouble(error.message);
          },
        );
    }, REST_MS);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [asked, slug]);

  return (
    <section aria-label="Rehearsal">
      <SectionTitle>Rehearse</SectionTitle>
      <div className="mt-3 flex flex-wrap gap-3">
        {fields.map(([name, label]) => (
          <Field key={name} className={`flex flex-col gap-1 ${name === "text" || name === "fields" ? "w-full" : ""}`}>
            <Label className="font-plate text-note">{label}</Label>
            <Input
              value={typed[name] ?? ""}
              onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
              className={`${FIELD} ${name === "fields" || name === "topic" ? "font-mono text-note" : ""}`}
            />
          </Field>
        ))}
      </div>
      <Trouble>{trouble}</Trouble>
      {view && trouble === null && <Told view={view} />}
      <Trial slug={slug} kind={inlet.kind} isChanged={isChanged} arrival={() => arrivalOf(typed)} />
    </section>
  );
}

function typedFrom({ fields, ...texts }: Partial<Arrival>): Partial<Record<Name, string>> {
  const known = Object.entries(texts).flatMap(([name, text]) => (typeof text === "string" ? [[name, text]] : []));
  return { ...Object.fromEntries(known), ...(fields ? { fields: JSON.stringify(fields) } : {}) };
}

/** @throws Error when the fields are no JSON */
function arrivalOf({ fields, ...texts }: Partial<Record<Name, string>>): Partial<Arrival> {
  const known = Object.fromEntries(Object.entries(texts).filter(([, text]) => text !== ""));
  if (fields === undefined) return { text: "", ...known };
  try {
    return { ...known, fields: JSON.parse(fields) as unknown };
  } catch (error) {
    throw new Error(`This is not JSON: ${(error as Error).message}`, { cause: error });
  }
}

function Told({ view: { would, route, routeName, used, asks, reply } }: { view: RehearsalView }) {
  const headline =
    would === "act" ? "Would send commands." : would === "answer" ? "Would only answer." : "Would do nothing.";
  return (
    <div
      role="status"
      className={`mt-4 border-l-[3px] px-4 py-3 ${would === "act" ? "border-act bg-act-wash" : "border-soft bg-sheet"}`}
    >
      <p>
        <strong className="font-semibold">{headline}</strong>
        {route !== null && (
          <span>
            {" "}
            Route {route} matches{routeName === null ? "" : `: ${routeName}`}.
          </span>
        )}
      </p>
      {used.length > 0 && (
        <dl className="mt-2 grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-0.5 text-note">
          {used.map(({ words, gave }, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the same words may stand there twice
            <div key={index} className="contents">
              <dt className="font-medium">{words}</dt>
              <dd className="text-soft">{gave}</dd>
            </div>
          ))}
        </dl>
      )}
      {asks.map(({ target, action, value, refusal, sends }) => (
        <div key={`${target} ${action} ${String(value)}`} className="mt-3">
          {sends.map(({ channel, name, to, topic, payload }) => (
            <p key={channel} className="mt-1">
              {name} → {to}
              <span className="block break-all font-mono text-note text-soft">
                {topic} {payload}
              </span>
            </p>
          ))}
          {refusal !== null && <p className="font-semibold text-note text-wrong">{refusal}</p>}
        </div>
      ))}
      {asks.length === 0 && reply !== "" && <p className="mt-2">“{reply}”</p>}
    </div>
  );
}
