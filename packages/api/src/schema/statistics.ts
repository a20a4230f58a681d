/** Joi schemas of what can be asked of statistics. */
import Joi from "joi";
import { STATISTICS_TABLES, type StatisticsQuery, type StatisticsTable } from "../statistics-view.ts";

const day = Joi.string()
  .pattern(/^\d{4}-\d{2}-\d{2}$/)
  .custom((text: string) => {
    // 2026-02-30 would become another day.
    if (new Date(`${text}T00:00:00Z`).toISOString().slice(0, 10) !== text) throw new Error("there is no such day");
    return text;
  })
  .messages({
    "string.pattern.base": "{{#label}} must be a day like 2026-11-01",
    "any.custom": "{{#label}} is no day of the calendar",
  });

/** The query of `GET /statistics`. */
export const statisticsQuerySchema = Joi.object<StatisticsQuery>({
  days: Joi.number().integer().min(1).max(400),
  from: day,
  to: day,
  site: Joi.string().min(1).max(64),
})
  .oxor("days", "from")
  .prefs({ abortEarly: false, convert: true, errors: { wrap: { label: "“”" } } });

/** The query of `GET /statistics.csv`. */
export const statisticsCsvSchema = statisticsQuerySchema.append<StatisticsQuery & { table?: StatisticsTable }>({
  table: Joi.valid(...STATISTICS_TABLES),
});
