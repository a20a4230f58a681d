/** Inlets: what an arrival means, by their routes and the grammar. */
export * from "./check.ts";
export * from "./input.ts";
export * from "./kept-fields.ts";
export { callText } from "./kind/call.ts";
export * from "./kind/index.ts";
export { PHRASES } from "./kind/kind.ts";
export { topicListener } from "./kind/topic.ts";
export * from "./mapping.ts";
export * from "./menu.ts";
export * from "./model.ts";
export * from "./panel.ts";
export * from "./payload.ts";
export * from "./press.ts";
export * from "./reply.ts";
export * from "./route-draft.ts";
export * from "./router.ts";
export * from "./sheet.ts";
export * from "./understand.ts";
