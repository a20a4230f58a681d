/** Log as files: page after page, so that a long list never stands in memory. */
import type { CommandView, LogQuery, RequestView } from "@bold-relay/api";
import { stringify } from "csv-stringify/sync";
import type { Reader, RequestQueries } from "../requests/queries.ts";

const PAGE = 200;
/** No file is longer; what lies behind it is asked for with `before`. */
const MOST_ROWS = 100_000;

const COLUMNS = [
  "at",
  "request",
  "requester",
  "inlet",
  "asker",
  "target",
  "action",
  "value",
  "channel",
  "to",
  "outcome",
  "stage",
  "end",
  "reason",
  "after ms",
  "answer",
];

export async function* exportLines(
  queries: RequestQueries,
  query: LogQuery,
  reader: Reader,
  form: "csv" | "jsonl",
): AsyncGenerator<string> {
  let before = query.before;
  for (let rows = 0; rows < MOST_ROWS; rows += PAGE) {
    const page = await queries.page({ ...query, limit: PAGE, ...(before === undefined ? {} : { before }) }, reader);
    // After the first look: what may not be asked is refused before anything was written.
    if (form === "csv" && rows === 0) yield stringify([COLUMNS]);
    if (form === "csv") yield csv(page.requests);
    else yield page.requests.map((request) => `${JSON.stringify(request)}\n`).join("");
    if (page.next === null) return;
    before = page.next;
  }
}

function csv(requests: readonly RequestView[]): string {
  const rows = requests.flatMap((request) => {
    const { commands, refusal } = request;
    return commands.length === 0
      ? [csvRow(request, null, refusal?.detail ?? "")]
      : commands.map((one) => csvRow(request, one));
  });
  // What an asker wrote must not become a formula in somebody's spreadsheet.
  return stringify(rows, { escape_formulas: true });
}

/** A request has a row for each of its commands, or one if it has none. */
function csvRow(request: RequestView, command: CommandView | null, answer = "") {
  const { at, id, requester, inlet, asker, target, action, value, outcome, refusal } = request;
  return [
    at,
    id,
    requester,
    inlet,
    asker,
    target,
    action,
    value,
    command?.channel,
    command?.to,
    outcome,
    command?.stage,
    command?.end,
    command?.reason ?? refusal?.code,
    command?.after.ended,
    command ? `${command.verdict.headline} ${command.verdict.text}` : answer,
  ];
}
