/**
 * Things that come in one of several forms, told apart by a member that only one of them has. Joi's own alternatives would
 * complain of all forms at once; here what is wrong is said of the one that was meant.
 */
import Joi from "joi";

/** By name: for whoever has to say what the forms are, like a JSON Schema. */
const known = new Map<string, readonly Joi.Schema[]>();

const MARK = "form of ";

/** The forms that a description stands for; null: it stands for none. */
export function formsMarked(description: unknown): readonly Joi.Schema[] | null {
  if (typeof description !== "string" || !description.startsWith(MARK)) return null;
  return known.get(description.slice(MARK.length)) ?? null;
}

/** @param check says what is wrong by `helpers.error` */
export function formOf<Found>(
  name: string,
  forms: readonly Joi.Schema[],
  check: Joi.CustomValidator<Found>,
): Joi.AnySchema {
  known.set(name, forms);
  return Joi.any().description(`${MARK}${name}`).custom(check);
}
