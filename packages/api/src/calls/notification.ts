/** Calls about notifications. */

import type { NotificationDescription } from "@bold-relay/core";
import type { NewSecretView } from "../inlet-view.ts";
import type { NotificationDeliveryView, NotificationView } from "../notification-view.ts";
import type { Sender } from "./sender.ts";
import { ifMatch } from "./words.ts";

export function notificationCalls({ send, json }: Sender) {
  return {
    /** All notifications, with what became of their last messages. */
    notifications: () => json<NotificationView[]>(send("GET", "/api/v1/notifications")),
    /**
     * @param version that it was changed from; 0: it must be new, null: whatever it is. Rejects with
     *   version-conflict.
     */
    saveNotification: (notification: NotificationDescription, version: number | null) =>
      json<NotificationView>(
        send("PUT", `/api/v1/notifications/${encodeURIComponent(notification.slug)}`, notification, {
          headers: ifMatch(version),
        }),
      ),
    /** Ends a notification. What waits to be sent is not sent. @param version that was looked at; null: whatever it is */
    removeNotification: async (slug: string, version: number | null = null) =>
      void (await send("DELETE", `/api/v1/notifications/${encodeURIComponent(slug)}`, undefined, {
        headers: ifMatch(version),
      })),
    /** A new secret for signatures (Standard Webhooks); it is in the answer, and nowhere else. */
    makeNotificationSecret: (slug: string) =>
      json<NewSecretView>(send("POST", `/api/v1/notifications/${encodeURIComponent(slug)}/secret`, {})),
    /** The last messages of a notification, newest first, with the answer of each address. */
    notificationLog: (slug: string) =>
      json<NotificationDeliveryView[]>(send("GET", `/api/v1/notifications/${encodeURIComponent(slug)}/log`)),
  };
}
