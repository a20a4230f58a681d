/**
 * Connections whose errors are known to be the database's: of its server, of the driver, or of the way to it. An error of a socket or
 * a file looks the same wherever it comes from, so only its source can tell.
 */
import pg from "pg";
import { markDatabaseError } from "./database-trouble.ts";

type Callback = (error: Error | null | undefined, ...results: unknown[]) => void;

/** Marks what a call ends with, whether it takes a callback or returns a promise. */
function marking<Result>(args: unknown[], call: (args: unknown[]) => Result): Result {
  const last = args.at(-1);
  if (typeof last === "function") {
    const told: Callback = (error, ...results) => {
      if (error) markDatabaseError(error);
      (last as Callback)(error, ...results);
    };
    return call([...args.slice(0, -1), told]);
  }
  const result = call(args);
  if (result instanceof Promise) result.catch(markDatabaseError);
  return result;
}

/** pg has overloads for each form of call: they are handed on as they are. */
type Untyped = (...args: unknown[]) => unknown;

class MarkedClient extends pg.Client {
  override query = ((...args: unknown[]) =>
    marking(args, (own) => (pg.Client.prototype.query as Untyped).apply(this, own))) as pg.Client["query"];
}

export class MarkedPool extends pg.Pool {
  constructor(settings: pg.PoolConfig) {
    super({ ...settings, Client: MarkedClient });
  }

  override connect = ((...args: unknown[]) =>
    marking(args, (own) => (pg.Pool.prototype.connect as Untyped).apply(this, own))) as pg.Pool["connect"];
}
