/** What client and server agree on: bodies, views, problems, and the client itself. Schemas: `@bold-relay/api/schema`. */

export * from "./alert-view.ts";
export * from "./ask.ts";
export * from "./channel-view.ts";
export * from "./client.ts";
export type { ListenEvent, LiveEvent, PanelEvent, WireEvent } from "./client-answer.ts";
export * from "./cluster-view.ts";
export * from "./description-client.ts";
export * from "./device-view.ts";
export * from "./inlet-view.ts";
export * from "./live-view.ts";
export * from "./map-view.ts";
export * from "./notification-view.ts";
export * from "./operate-client.ts";
export * from "./panel-client.ts";
export * from "./panel-view.ts";
export * from "./people-view.ts";
export * from "./problem.ts";
export * from "./request-view.ts";
export * from "./statistics-view.ts";
export * from "./summary.ts";
