/** Deliveries as files: page after page, so that a long list never stands in memory. */
import type { DeliveryQuery, RequestView } from "@bold-relay/api";
import { stringify } from "csv-stringify/sync";
import type { Ledger } from "./ledger.ts";

const PAGE = 200;
/** No file is longer; what lies behind it is asked for with `before`. */
const MOST_ROWS = 100_000;

const COLUMNS = [
  "at",
  "request",
  "inlet",
  "asker",
  "target",
  "action",
  "channel",
  "outcome",
  "stage",
  "end",
  "reason",
  "after ms",
  "answer",
];

export async function* exportLines(
  ledger: Ledger,
  query: DeliveryQuery,
  form: "csv" | "jsonl",
): AsyncGenerator<string> {
  if (form === "csv") yield stringify([COLUMNS]);
  let before = query.before;
  for (let rows = 0; rows < MOST_ROWS; rows += PAGE) {
    const page = await ledger.page({ ...query, limit: PAGE, ...(before === undefined ? {} : { before }) });
    if (form === "csv") yield csv(page.requests);
    else yield page.requests.map((request) => `${JSON.stringify(request)}\n`).join("");
    if (page.next === null) return;
    before = page.next;
  }
}

function csv(requests: readonly RequestView[]): string {
  const rows = requests.map((request) => {
    const [command] = request.commands;
    return [
      request.at,
      request.id,
      request.inlet,
      request.asker,
      request.target,
      request.action,
      command?.channel,
      request.outcome,
      command?.stage,
      command?.end,
      command?.reason ?? request.refusal?.code,
      command?.after.ended,
      command ? `${command.verdict.headline} ${command.verdict.text}` : request.refusal?.detail,
    ];
  });
  // What an asker wrote must not become a formula in somebody's spreadsheet.
  return stringify(rows, { escape_formulas: true });
}
