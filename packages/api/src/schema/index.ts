/** The schemas that the service checks every input against. */

export * from "./alert.ts";
export * from "./ask.ts";
export { fileSchemas, wholeFileSchemas } from "./files.ts";
export * from "./inlet.ts";
export * from "./map.ts";
export * from "./notification.ts";
export { openApi } from "./open-api.ts";
export {
  type Access,
  accessOf,
  effectOf,
  type OperationName,
  operationNames,
  operations,
  otherOperations,
  type RecentSignIn,
  recentSignInOf,
} from "./operations.ts";
export * from "./panel.ts";
export * from "./part.ts";
export { payloadForm } from "./payload-form.ts";
export { type SetupFile, setupFileSchema } from "./setup-file.ts";
export * from "./site.ts";
export * from "./statistics.ts";
export { memberName } from "./text.ts";
