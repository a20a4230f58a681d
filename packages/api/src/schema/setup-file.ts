/** The file of `bold-relay-server setup --from`: what an installation begins with. */
import Joi from "joi";
import { memberName, plainText } from "./text.ts";

export interface SetupFile {
  readonly profiles: readonly string[];
  readonly sites: readonly string[];
  readonly owner: string | null;
  readonly keys: readonly { readonly member: string; readonly name: string }[];
  readonly inlets: readonly { readonly slug: string; readonly name: string; readonly site: string | null }[];
}

const name = plainText.trim().min(1).max(80);

export const setupFileSchema = Joi.object<SetupFile>({
  profiles: Joi.array().items(Joi.string()).default([]),
  sites: Joi.array().items(Joi.string()).default([]),
  owner: memberName.allow(null).default(null),
  keys: Joi.array()
    .items(
      Joi.object({
        member: name.required(),
        name: name.required(),
      }),
    )
    .default([]),
  inlets: Joi.array()
    .items(
      Joi.object({
        slug: plainText.min(1).max(40).required(),
        name: name.required(),
        site: plainText.max(40).allow(null).default(null),
      }),
    )
    .default([]),
})
  .required()
  .label("file");
