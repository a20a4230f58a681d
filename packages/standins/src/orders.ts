/** What the stand-in boards hear and say, in the two forms that boards of the trade speak. */
import { isValue, type Value } from "@bold-relay/core";

export interface BoardOrder {
  /** null: the form has no ids. */
  readonly id: string | null;
  readonly to: Value;
  /** For how long, ms; null: for good. */
  readonly forMs: number | null;
}

interface BoardWords {
  read(payload: Buffer): BoardOrder | null;
  done(id: string | null, ok: boolean, code: number): string;
  is(to: Value, by: string | null, id: string | null): string;
  here(up: boolean, boot: string): string;
}

const json: BoardWords = {
  read(payload) {
    try {
      const order = JSON.parse(payload.toString("utf8")) as { id?: unknown; to?: unknown; for?: unknown };
      if (typeof order.id !== "string" || !isValue(order.to)) return null;
      return { id: order.id, to: order.to, forMs: typeof order.for === "number" ? order.for : null };
    } catch {
      return null;
    }
  },
  done: (id, ok, code) => JSON.stringify({ id, ok, code }),
  is: (to, by, id) => JSON.stringify({ to, ...(by === null ? {} : { by }), ...(id === null ? {} : { id }) }),
  here: (up, boot) => JSON.stringify(up ? { up, boot } : { up }),
};

const word: BoardWords = {
  read(payload) {
    const [to = "", time] = payload.toString("utf8").split(" ");
    const value = isValue(to) ? to : /^-?\d+$/.test(to) ? Number(to) : null;
    return value === null ? null : { id: null, to: value, forMs: time === undefined ? null : Number(time) };
  },
  done: (_id, ok) => (ok ? "ok" : "no"),
  is: (to) => String(to),
  here: (up) => (up ? "up" : "down"),
};

export const boardWords = { json, word };
