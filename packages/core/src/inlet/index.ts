/** Inlets: what an arrival means, by their routes and the grammar. */
export * from "./check.ts";
export * from "./example.ts";
export * from "./mapping.ts";
export * from "./model.ts";
export * from "./reply.ts";
export * from "./router.ts";
export * from "./sheet.ts";
export * from "./understand.ts";
