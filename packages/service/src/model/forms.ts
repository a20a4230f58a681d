/** Reading descriptions other than sites, by their schemas: for a big one that takes longer than others should wait. */
import { inletSchema, notificationSchema, pastSchema, profileSchema, rehearsalSchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import { checked, parseJson } from "../http-exchange/body.ts";

const FORMS = {
  inlet: inletSchema,
  rehearsal: rehearsalSchema,
  past: pastSchema,
  profile: profileSchema,
  notification: notificationSchema,
} as const;

export type Form = keyof typeof FORMS;

/**
 * @param text JSON
 * @returns what it holds, and the inlet in it checked too
 * @throws RelayError bad-json or bad-request
 */
export function readForm(form: Form, text: string): object {
  const body: object = checked<object>(FORMS[form], parseJson(text));
  if ((form !== "rehearsal" && form !== "past") || !("inlet" in body) || body.inlet === undefined) return body;
  const { value, error } = inletSchema.validate(body.inlet);
  if (!error) return { ...body, inlet: value };
  const why = error.details.map((one) => one.message).join("; ");
  throw new RelayError("bad-request", { why: why.slice(0, 1_000) });
}
