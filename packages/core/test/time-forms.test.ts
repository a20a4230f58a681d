/** The one form of dates and times: the reader's locale decides the order, the zone the day. */

import { timeForms } from "@bold-relay/core";
import { expect, it } from "vitest";

const now = () => Date.parse("2026-11-28T08:00:00Z");
const AT = "2026-11-26T23:30:09.041Z";

it("writes a date and a time by locale and zone", () => {
  expect(timeForms(now, "en-GB", "UTC").dateTime(AT)).toBe("26 Nov 2026, 23:30");
  expect(timeForms(now, "en-GB", "Europe/Berlin").dateTime(AT)).toBe("27 Nov 2026, 00:30");
  expect(timeForms(now, "en-US", "UTC").date(AT)).toBe("Nov 26, 2026");
});

it("leaves the day out today, and has 24 hours everywhere", () => {
  const { clock, clockMs } = timeForms(now, "en-US", "UTC");
  expect(clock(AT)).toBe("Nov 26, 23:30:09");
  expect(clockMs(AT)).toBe("Nov 26, 23:30:09.041");
  expect(clock("2025-12-31T23:59:59Z")).toBe("Dec 31, 2025, 23:59:59");
  expect(clock("2026-11-28T07:05:00Z")).toBe("07:05:00");
});

it("marks midnight on an axis by its date", () => {
  const { mark } = timeForms(now, "en-GB", "UTC");
  expect(mark(Date.parse("2026-11-26T00:00:00Z"))).toBe("26 Nov");
  expect(mark(Date.parse(AT))).toBe("23:30");
});

it("takes a day of the calendar as it is, wherever the reader is", () => {
  const { weekday, days } = timeForms(now, "en-GB", "Pacific/Auckland");
  expect(weekday("2026-11-26")).toMatch(/^Thu,? 26 Nov$/);
  expect(days("2026-11-20", "2026-11-26")).toMatch(/^20\s?–\s?26 Nov 2026$/);
  expect(days("2026-11-26", "2026-11-26")).toBe("26 Nov 2026");
});
