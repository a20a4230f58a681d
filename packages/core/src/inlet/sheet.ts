/** What stands in a spreadsheet → orders, and which of them are new. Pure. */

export interface SheetOrder {
  /** Which row it is: an id, or the channel. */
  readonly key: string;
  /** What makes it another order than the one before in the same row. */
  readonly mark: string;
  readonly phrase: string;
}

const MOST_ROWS = 5_000;

/**
 * rows: columns `channel` and `want`, and `id` if the same may be wanted twice · cell: columns `id` and `say`, one row
 *
 * @param rows by column name, in small letters
 */
export function sheetOrders(
  rows: readonly Readonly<Record<string, string>>[],
  form: "rows" | "cell",
): { readonly orders: readonly SheetOrder[] } | { readonly wrong: string } {
  const needed = form === "rows" ? ["channel", "want"] : ["id", "say"];
  const [first] = rows;
  if (!first) return { orders: [] };
  const missing = needed.filter((column) => !Object.hasOwn(first, column));
  if (missing.length > 0) return { wrong: `it has no column ${missing.map((one) => `“${one}”`).join(" and ")}.` };
  if (rows.length > MOST_ROWS) return { wrong: `it has more than ${MOST_ROWS} rows.` };
  if (form === "cell") {
    const { id = "", say = "" } = first;
    return { orders: id === "" || say === "" ? [] : [{ key: "cell", mark: id, phrase: say }] };
  }
  const orders = rows.flatMap(({ channel = "", want = "", id = "" }) =>
    channel === "" || want === ""
      ? []
      : [{ key: channel, mark: `${id} ${want}`, phrase: `"${channel.replaceAll('"', " ")}" ${want}` }],
  );
  return { orders };
}

/**
 * Orders that were not there when it was last looked at. The first look only notes what there is: nobody knows how old it is.
 *
 * @param seen what the look before came to; null: this is the first
 */
export function newOrders(
  seen: ReadonlyMap<string, string> | null,
  orders: readonly SheetOrder[],
): { readonly fresh: readonly SheetOrder[]; readonly seen: ReadonlyMap<string, string> } {
  const now = new Map(orders.map(({ key, mark }) => [key, mark]));
  const fresh = seen === null ? [] : orders.filter(({ key, mark }) => seen.get(key) !== mark && now.get(key) === mark);
  return { fresh, seen: now };
}
