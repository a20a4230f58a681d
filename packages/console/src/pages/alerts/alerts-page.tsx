/** Alerts: what should I look at? One alert per root cause; it resolves itself when the cause is fixed. */
import type { AlertChangeBody, AlertView } from "@bold-relay/api";
import { type AlertKind, formatAgo } from "@bold-relay/core";
import { Field, Input, Label } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "wouter";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useAlerts } from "../../api/queries.ts";
import { useMemberName } from "../../api/session.ts";
import { useNow } from "../../live/use-now.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, PAGE, QUIET, SectionTitle, STRONG, Trouble } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";

export function AlertsPage() {
  const { data: alerts, error } = useAlerts();
  const now = useNow();
  const open = alerts?.filter((one) => isOpen(one, now)) ?? [];
  const hidden = alerts?.filter((one) => !isOpen(one, now)) ?? [];
  return (
    <div className={PAGE}>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">Alerts</h1>
        {alerts && <p className="text-soft">{open.length === 1 ? "1 open" : `${open.length} open`}</p>}
      </header>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {alerts && open.length === 0 && (
        <p className="mt-6 max-w-[560px] text-soft">
          No open alerts. One alert per root cause is listed here. It resolves itself when the cause is fixed.
        </p>
      )}
      <ul className="mt-4">
        {open.map((alert) => (
          <AlertEntry key={`${alert.kind} ${alert.subject}`} alert={alert} now={now} />
        ))}
      </ul>
      {hidden.length > 0 && (
        <section aria-label="Hidden">
          <SectionTitle>Resolved or snoozed</SectionTitle>
          <ul>
            {hidden.map((alert) => (
              <AlertEntry key={`${alert.kind} ${alert.subject}`} alert={alert} now={now} />
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

function isOpen({ resolved, snoozedUntil }: AlertView, now: number): boolean {
  return !resolved && (snoozedUntil === null || Date.parse(snoozedUntil) <= now);
}

function AlertEntry({ alert, now }: { alert: AlertView; now: number }) {
  const { kind, subject, title, text, since, assignedTo, note, snoozedUntil, resolved } = alert;
  const me = useMemberName();
  const queries = useQueryClient();
  const [noting, setNoting] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const hidden = !isOpen(alert, now);

  async function save(change: Partial<AlertChangeBody>): Promise<void> {
    setTrouble(null);
    await client.changeAlert({ kind, subject, ...change }).catch((error: Error) => setTrouble(error.message));
    await queries.invalidateQueries({ queryKey: names.alerts });
  }

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    await save({ note: String(new FormData(event.currentTarget).get("note")).trim() });
    setNoting(false);
  }

  return (
    <li data-alert={kind} className="border-hairline border-b py-3">
      <p className="flex flex-wrap items-baseline gap-x-3">
        <strong className={`font-semibold ${hidden ? "" : "text-wrong"}`}>{title}</strong>
        <span className="text-note text-soft">
          {formatAgo(now - Date.parse(since))}
          {assignedTo !== null && `, assigned to ${assignedTo === me ? "you" : assignedTo}`}
          {resolved && ", resolved"}
          {!resolved && hidden && snoozedUntil !== null && `, snoozed until ${when.dateTime(snoozedUntil)}`}
        </span>
      </p>
      <p className="mt-0.5 max-w-[720px]">{text}</p>
      {note !== null && !noting && <p className="mt-1 border-soft border-l-[3px] px-3 text-note">{note}</p>}
      {noting && (
        <form onSubmit={(event) => void submit(event)} className="mt-2 flex flex-wrap items-end gap-3">
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">Note for the team</Label>
            <Input
              name="note"
              maxLength={300}
              defaultValue={note ?? ""}
              autoFocus
              className={`${FIELD} w-[340px] max-w-full`}
            />
          </Field>
          <Button type="submit" className={STRONG}>
            Save note
          </Button>
        </form>
      )}
      <Trouble>{trouble}</Trouble>
      <p className="mt-1.5 flex flex-wrap gap-x-5 gap-y-1">
        {whereTo(kind, subject) !== null && (
          <Link to={whereTo(kind, subject) ?? ""} className={QUIET}>
            Show details
          </Link>
        )}
        {hidden ? (
          <Button onClick={() => void save({ resolve: false, snoozeHours: 0 })} className={QUIET}>
            Reopen
          </Button>
        ) : (
          <>
            <Button onClick={() => void save({ assign: assignedTo !== me })} className={QUIET}>
              {assignedTo === me ? "Unassign" : "Assign to me"}
            </Button>
            <Button onClick={() => setNoting(!noting)} className={QUIET}>
              {note === null ? "Add note" : "Edit note"}
            </Button>
            <Button onClick={() => void save({ snoozeHours: 24 })} className={QUIET}>
              Snooze for a day
            </Button>
            <Button onClick={() => void save({ resolve: true })} className={QUIET}>
              Resolve
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
  if (kind === "key-expiring" || kind === "secret-guessed") return "/access";
  const levels = address.split("/");
  return levels.length === 3 ? `/history/${address}` : `/devices/${address}`;
}
