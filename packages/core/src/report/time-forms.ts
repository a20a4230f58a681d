/** Moments as people read them: one form on every page and in the terminal, in the reader's locale and zone, with 24 hours a day. */

export interface TimeForms {
  /** "27 Nov 2026" */
  readonly date: (at: string | number) => string;
  /** "27 Nov 2026, 18:47" */
  readonly dateTime: (at: string | number) => string;
  /** "18:47:09"; before today "26 Nov, 18:47:09"; before this year "26 Nov 2025, 18:47:09". */
  readonly clock: (at: string | number) => string;
  /** As `clock`, with milliseconds: "18:47:09.041". */
  readonly clockMs: (at: string | number) => string;
  /** Of an axis: "18:47", and "27 Nov" at midnight. */
  readonly mark: (at: number) => string;
  /** A date of the calendar, wherever the reader is: "2026-11-26" → "Thu 26 Nov". */
  readonly weekday: (day: string) => string;
  /** The same with its year, one or a range of them: "20 – 26 Nov 2026". */
  readonly days: (from: string, to: string) => string;
}

/**
 * @param now what time it is, ms: today's moments have no date
 * @param locale of the reader; left out: that of the browser or process
 * @param timeZone of the reader; left out: that of the browser or process
 */
export function timeForms(now: () => number, locale?: string, timeZone?: string): TimeForms {
  // Each is made when it is first used: making one takes a phone some 20 ms.
  const form = (options: Intl.DateTimeFormatOptions) => {
    let made: Intl.DateTimeFormat | undefined;
    return () => {
      made ??= new Intl.DateTimeFormat(locale, { timeZone, hourCycle: "h23", ...options });
      return made;
    };
  };
  const day = { day: "numeric", month: "short", year: "numeric" } as const;
  const time = { hour: "2-digit", minute: "2-digit" } as const;
  const date = form(day);
  const seconds = form({ ...time, second: "2-digit" });
  const milliseconds = form({ ...time, second: "2-digit", fractionalSecondDigits: 3 });
  const minutes = form(time);
  const dateTime = form({ ...day, ...time });
  const shortDay = form({ day: "numeric", month: "short" });
  const weekday = form({ weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });
  const days = form({ ...day, timeZone: "UTC" });
  const year = form({ year: "numeric" });
  const isToday = (at: Date) => date().format(at) === date().format(now());
  const dayOf = (at: Date) => (year().format(at) === year().format(now()) ? shortDay : date)().format(at);
  const withDay = (clock: () => Intl.DateTimeFormat) => (at: string | number) => {
    const moment = new Date(at);
    return `${isToday(moment) ? "" : `${dayOf(moment)}, `}${clock().format(moment)}`;
  };
  const calendar = (text: string) => new Date(`${text}T00:00:00Z`);
  return {
    date: (at) => date().format(new Date(at)),
    dateTime: (at) => dateTime().format(new Date(at)),
    clock: withDay(seconds),
    clockMs: withDay(milliseconds),
    mark: (at) => (minutes().format(at) === "00:00" ? shortDay : minutes)().format(at),
    weekday: (text) => weekday().format(calendar(text)),
    days: (from, to) => (from === to ? days().format(calendar(to)) : days().formatRange(calendar(from), calendar(to))),
  };
}
