/** Notices as callers see them. */
import type { NoticeDescription } from "@bold-relay/core";

/** GET /api/v1/notices */
export interface NoticeView {
  notice: NoticeDescription;
  version: number;
  /** Whether what it sends is signed. */
  signed: boolean;
}

/** GET /api/v1/notices/<slug>/log: the newest first. */
export interface NoticeDeliveryView {
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
