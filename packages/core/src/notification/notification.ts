/** Notifications: what outside services are told of, as CloudEvents (1.0). Which are wanted, and how long between tries. Pure. */
import type { Alert } from "../alert/kind.ts";
import type { Outcome } from "../report/outcome.ts";

export interface NotificationDescription {
  readonly slug: string;
  readonly name: string;
  /** Only what belongs to this site; null: to any. */
  readonly site: string | null;
  /** Tells nothing while it is. Default false. */
  readonly paused?: boolean;
  readonly on: {
    /** Requests with these outcomes. */
    readonly outcomes?: readonly Outcome[];
    /** Channels that become something else, by whatever cause. */
    readonly changes?: boolean;
    /** Alerts, when they open and when they are resolved. */
    readonly alerts?: boolean;
  };
  /** Where to: POST to an address whose host may be called, or an MQTT topic. */
  readonly to: { readonly url: string } | { readonly topic: string };
}

export type NotificationEvent =
  | {
      readonly what: "outcome";
      readonly outcome: Outcome;
      readonly site: string | null;
      readonly subject: string;
      readonly data: object;
      /** The request's place in its caller's trace, or in its own. */
      readonly traceparent: string;
    }
  | { readonly what: "change"; readonly site: string; readonly subject: string; readonly data: object }
  | {
      readonly what: "alert";
      readonly alert: Pick<Alert, "kind" | "subject" | "site" | "title" | "text" | "since">;
      readonly gone: boolean;
    };

/** Whether a notification tells of this. */
export function wantsNotification({ paused, site, on }: NotificationDescription, event: NotificationEvent): boolean {
  const of = event.what === "alert" ? event.alert.site : event.site;
  if (paused || (site !== null && site !== of)) return false;
  if (event.what === "outcome") return on.outcomes?.includes(event.outcome) ?? false;
  return event.what === "change" ? on.changes === true : on.alerts === true;
}

/**
 * @param id the same for each time that it is told
 * @param at ms since 1970
 */
export function cloudEvent(event: NotificationEvent, id: string, at: number): object {
  const common = {
    specversion: "1.0",
    id,
    source: "bold-relay",
    time: new Date(at).toISOString(),
    datacontenttype: "application/json",
  };
  if (event.what !== "alert") {
    // CloudEvents, extension “distributed tracing”.
    const traced = event.what === "outcome" ? { traceparent: event.traceparent } : {};
    return { ...common, ...traced, type: `bold-relay.${event.what}`, subject: event.subject, data: event.data };
  }
  const { alert, gone } = event;
  const type = gone ? "bold-relay.alert.resolved" : "bold-relay.alert";
  const { kind, subject, site, title, text } = alert;
  const data = { kind, subject, site, title, text, since: new Date(alert.since).toISOString() };
  return { ...common, type, subject: `${kind} ${subject}`, data };
}

const WAITS_MS = [5_000, 30_000, 120_000, 600_000, 3_600_000, 4 * 3_600_000, 12 * 3_600_000];

/** How long after this many tries the next one comes, ms; null: it is given up. About 17 hours in all. */
export function notificationWaitMs(tries: number): number | null {
  return WAITS_MS[tries - 1] ?? null;
}
