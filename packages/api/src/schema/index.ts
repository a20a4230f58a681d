/** The schemas that the service checks every input against. */
export * from "./ask.ts";
export * from "./attention.ts";
export * from "./figures.ts";
export { fileSchemas } from "./files.ts";
export * from "./inlet.ts";
export * from "./notice.ts";
export { openApi } from "./open-api.ts";
export {
  type Access,
  accessOf,
  type OperationName,
  operationNames,
  operations,
  otherOperations,
} from "./operations.ts";
export { payloadForm } from "./payload-form.ts";
export * from "./site.ts";
