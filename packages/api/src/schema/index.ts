/** The schemas that the service checks every input against. */
export * from "./ask.ts";
export * from "./site.ts";
