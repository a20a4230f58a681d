/** Notifications: who is told of what happens, and whether the telling got through. */
import type { NotificationView } from "@bold-relay/api";
import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useNotifications } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { Deleted } from "../../parts/deleted.tsx";
import { PAGE, QUIET, ShownOnce, STRONG, Trouble, Twice } from "../../parts/form.tsx";
import { NotificationForm } from "./notification-form.tsx";
import { NotificationLog } from "./notification-log.tsx";

export function NotificationsPage() {
  const { data: notifications, error } = useNotifications();
  const [adding, setAdding] = useState(false);
  const [deleted, setDeleted] = useState<{ slug: string; name: string } | null>(null);
  return (
    <div className={PAGE}>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">Notifications</h1>
        {notifications && notifications.length > 0 && (
          <p className="text-soft">
            {notifications.length === 1 ? "1 notification" : `${notifications.length} notifications`}
          </p>
        )}
        <Button onClick={() => setAdding(!adding)} aria-expanded={adding} className={`${STRONG} ml-auto`}>
          Add a notification
        </Button>
      </header>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {deleted && (
        <Deleted kind="notification" slug={deleted.slug} name={deleted.name} onDone={() => setDeleted(null)} />
      )}
      {adding && <NotificationForm notification={null} onDone={() => setAdding(false)} />}
      {notifications?.length === 0 && !adding && (
        <p className="mt-6 max-w-[560px] text-soft">
          No notifications yet. A notification sends request outcomes, state changes or alerts to an address or an MQTT
          topic.
        </p>
      )}
      {notifications?.map((view) => (
        <NotificationEntry key={view.notification.slug} view={view} onDeleted={setDeleted} />
      ))}
    </div>
  );
}

/** It brings the editor with it. */
const NotificationText = lazy(() => import("./notification-text.tsx"));

interface EntryProps {
  readonly view: NotificationView;
  readonly onDeleted: (one: { slug: string; name: string }) => void;
}

function NotificationEntry({ view: { notification, version, signed }, onDeleted }: EntryProps) {
  const { slug, name, site, paused = false, to } = notification;
  const queries = useQueryClient();
  const [shown, setShown] = useState<"log" | "form" | "text" | null>(null);
  const [secret, setSecret] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setTrouble(null);
      await queries.invalidateQueries({ queryKey: names.notifications });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  const toggle = (what: "log" | "form" | "text") => setShown(shown === what ? null : what);
  return (
    <section aria-label={name} className="mt-5 border-rule border-t pt-3">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 className="font-semibold">{name}</h2>
        <p className="text-note text-soft">
          <span className="font-mono">{slug}</span>, {site ?? "every site"}
          {"url" in to && (signed ? ", signed" : ", not signed")}
        </p>
        {paused && <strong className="font-semibold text-note">paused</strong>}
      </div>
      <p className="mt-1">
        {eventWords(notification)} →{" "}
        <span className="break-all font-mono text-note">{"url" in to ? to.url : `topic ${to.topic}`}</span>
      </p>
      <p className="mt-2 flex flex-wrap gap-x-5 gap-y-2">
        <Button onClick={() => toggle("log")} aria-expanded={shown === "log"} className={QUIET}>
          Delivery log
        </Button>
        <Button onClick={() => toggle("form")} aria-expanded={shown === "form"} className={QUIET}>
          Edit notification
        </Button>
        <Button onClick={() => toggle("text")} aria-expanded={shown === "text"} className={QUIET}>
          Edit as YAML
        </Button>
        <Button
          onClick={() => void act(() => client.saveNotification({ ...notification, paused: !paused }, version))}
          className={QUIET}
        >
          {paused ? "Resume notification" : "Pause notification"}
        </Button>
        {"url" in to && (
          <Button
            onClick={() => void act(async () => setSecret((await client.makeNotificationSecret(slug)).secret))}
            className={QUIET}
          >
            {signed ? "Create new signing secret" : "Create signing secret"}
          </Button>
        )}
        <Twice
          verb="Delete notification"
          sure={`Delete ${slug} and its log`}
          onSure={() =>
            void act(async () => {
              await client.removeNotification(slug, version);
              onDeleted({ slug, name });
            })
          }
        />
      </p>
      <Trouble>{trouble}</Trouble>
      {secret !== null && <ShownOnce what="Signing secret" secret={secret} onClose={() => setSecret(null)} />}
      {shown === "log" && <NotificationLog slug={slug} />}
      {shown === "text" && (
        <Suspense fallback={null}>
          <NotificationText notification={notification} version={version} onDone={() => setShown(null)} />
        </Suspense>
      )}
      {shown === "form" && <NotificationForm notification={{ notification, version }} onDone={() => setShown(null)} />}
    </section>
  );
}

function eventWords({ on: { outcomes = [], changes, alerts } }: NotificationView["notification"]): string {
  const events = [
    ...(outcomes.length > 0 ? [`outcomes (${outcomes.join(", ")})`] : []),
    ...(changes ? ["changes"] : []),
    ...(alerts ? ["alerts"] : []),
  ];
  return events.length === 0 ? "No events" : `Events: ${events.join(", ")}`;
}
