/** Joi schemas of what can be asked of the map. */
import Joi from "joi";
import type { MapQuery } from "../map-view.ts";

/** The query of `GET /map` and the calls below it. */
export const mapQuerySchema = Joi.object<MapQuery>({
  of: Joi.string().min(1).max(300),
  site: Joi.string().min(1).max(64),
}).prefs({ abortEarly: false, convert: true, errors: { wrap: { label: "“”" } } });
