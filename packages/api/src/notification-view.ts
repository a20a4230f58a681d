/** Notifications as callers see them. */
import type { NotificationDescription } from "@bold-relay/core";

/** GET /api/v1/notifications */
export interface NotificationView {
  notification: NotificationDescription;
  version: number;
  /** Whether what it sends is signed. */
  signed: boolean;
}

/** GET /api/v1/notifications/<slug>/log: the newest first. */
export interface NotificationDeliveryView {
  id: string;
  at: string;
  /** The CloudEvent. */
  event: object;
  tries: number;
  deliveredAt: string | null;
  /** When it is tried again; null: it has ended. */
  nextAt: string | null;
  trouble: string | null;
}
