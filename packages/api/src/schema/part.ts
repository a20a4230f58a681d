/** Bodies that are a part of a description. Their fields are checked with the whole that they become part of. */
import Joi from "joi";

/** The body of `PUT /sites/:site/:part/:name`: the fields of the part as in a file. Of a device also `room`, of a room `place`. */
export const partSchema = Joi.object<Record<string, unknown>>().unknown().required().label("body");

/** A merge patch (RFC 7396): null deletes a field, an object is merged, all else replaces. */
export const patchSchema = Joi.object<Record<string, unknown>>().unknown().min(1).required().label("body");

/** `preview=true`: show what would change, and change nothing. */
export const previewQuerySchema = Joi.object<{ preview?: boolean }>({ preview: Joi.boolean() }).label("query");
