/** Attention: what should I look at? One matter for each cause; it goes by itself when it is cured. */
import type { CareBody, MatterView } from "@bold-relay/api";
import { type AlertKind, formatAgo } from "@bold-relay/core";
import { Button, Field, Input, Label } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { client, names, useAttention, useMemberName } from "../../api/queries.ts";
import { useNow } from "../../live/use-now.ts";
import { FIELD, QUIET, SectionTitle, STRONG, Trouble } from "../../parts/form.tsx";

export function AttentionPage() {
  const { data: matters, error } = useAttention();
  const now = useNow();
  const open = matters?.filter((one) => isOpen(one, now)) ?? [];
  const hidden = matters?.filter((one) => !isOpen(one, now)) ?? [];
  return (
    <div className="max-w-[900px] px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">Attention</h1>
        {matters && <p className="text-soft">{open.length === 1 ? "1 matter" : `${open.length} matters`}</p>}
      </header>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {matters && open.length === 0 && (
        <p className="mt-6 max-w-[560px] text-soft">
          Nothing needs attention. What fails, goes away, drifts or is not understood is listed here, one line for each
          cause, and goes by itself when it is cured.
        </p>
      )}
      <ul className="mt-4">
        {open.map((matter) => (
          <Matter key={`${matter.kind} ${matter.subject}`} matter={matter} now={now} />
        ))}
      </ul>
      {hidden.length > 0 && (
        <section aria-label="Hidden">
          <SectionTitle>Closed or muted</SectionTitle>
          <ul>
            {hidden.map((matter) => (
              <Matter key={`${matter.kind} ${matter.subject}`} matter={matter} now={now} />
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

function isOpen({ closed, mutedUntil }: MatterView, now: number): boolean {
  return !closed && (mutedUntil === null || Date.parse(mutedUntil) <= now);
}

function Matter({ matter, now }: { matter: MatterView; now: number }) {
  const { kind, subject, title, text, since, takenBy, note, mutedUntil, closed } = matter;
  const me = useMemberName();
  const queries = useQueryClient();
  const [noting, setNoting] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const hidden = !isOpen(matter, now);

  async function care(change: Partial<CareBody>): Promise<void> {
    setTrouble(null);
    await client.care({ kind, subject, ...change }).catch((error: Error) => setTrouble(error.message));
    await queries.invalidateQueries({ queryKey: names.attention });
  }

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    await care({ note: String(new FormData(event.currentTarget).get("note")).trim() });
    setNoting(false);
  }

  return (
    <li data-matter={kind} className="border-hairline border-b py-3">
      <p className="flex flex-wrap items-baseline gap-x-3">
        <strong className={`font-semibold ${hidden ? "" : "text-wrong"}`}>{title}</strong>
        <span className="text-note text-soft">
          {formatAgo(now - Date.parse(since))}
          {takenBy !== null && `, taken by ${takenBy === me ? "you" : takenBy}`}
          {closed && ", closed until it happens anew"}
          {!closed && hidden && mutedUntil !== null && `, muted until ${new Date(mutedUntil).toLocaleString()}`}
        </span>
      </p>
      <p className="mt-0.5 max-w-[720px]">{text}</p>
      {note !== null && !noting && <p className="mt-1 border-soft border-l-[3px] px-3 text-note">{note}</p>}
      {noting && (
        <form onSubmit={(event) => void submit(event)} className="mt-2 flex flex-wrap items-end gap-3">
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">To the others</Label>
            <Input
              name="note"
              maxLength={300}
              defaultValue={note ?? ""}
              autoFocus
              className={`${FIELD} w-[340px] max-w-full`}
            />
          </Field>
          <Button type="submit" className={STRONG}>
            Note it
          </Button>
        </form>
      )}
      <Trouble>{trouble}</Trouble>
      <p className="mt-1.5 flex flex-wrap gap-x-5 gap-y-1">
        {whereTo(kind, subject) !== null && (
          <Link to={whereTo(kind, subject) ?? ""} className={QUIET}>
            Look at it
          </Link>
        )}
        {hidden ? (
          <Button onClick={() => void care({ close: false, muteHours: 0 })} className={QUIET}>
            Show it again
          </Button>
        ) : (
          <>
            <Button onClick={() => void care({ take: takenBy !== me })} className={QUIET}>
              {takenBy === me ? "Let go" : "Take it"}
            </Button>
            <Button onClick={() => setNoting(!noting)} className={QUIET}>
              {note === null ? "Note" : "Change the note"}
            </Button>
            <Button onClick={() => void care({ muteHours: 24 })} className={QUIET}>
              Mute for a day
            </Button>
            <Button onClick={() => void care({ close: true })} className={QUIET}>
              Close
            </Button>
          </>
        )}
      </p>
    </li>
  );
}

/** Where more is told of it. */
function whereTo(kind: AlertKind, subject: string): string | null {
  const [address = ""] = subject.split(":");
  if (kind === "device-gone") return `/devices/${address}`;
  if (kind.startsWith("inlet-")) return `/inlets/${subject}`;
  if (kind === "key-expiring") return "/team";
  const levels = address.split("/");
  return levels.length === 3 ? `/day/${address}` : `/devices/${address}`;
}
