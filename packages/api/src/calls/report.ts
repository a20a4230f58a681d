/** Calls about what was: the log, history, statistics; and what people say of alerts. */
import type { AlertChangeBody, AlertView } from "../alert-view.ts";
import type { HistoryQuery, LogQuery } from "../ask.ts";
import type { HistoryView, TrendView } from "../channel-view.ts";
import type { LogPage } from "../request-view.ts";
import type { StatisticsQuery, StatisticsView } from "../statistics-view.ts";
import type { Sender } from "./sender.ts";
import { addressPath, queryText } from "./words.ts";

export function reportCalls({ send, json }: Sender) {
  return {
    /** Assigns, notes, snoozes or resolves an alert. Resolves to it as it is then. */
    changeAlert: (body: AlertChangeBody) => json<AlertView>(send("POST", "/api/v1/alerts", body)),
    /**
     * The log of requests, newest first, one page at a time: `next` of a page is the `before` of the one after it.
     */
    log: (query: LogQuery = {}) => json<LogPage>(send("GET", `/api/v1/requests${queryText(query)}`)),
    /** @param address of a channel */
    history: (address: string, query: HistoryQuery = {}) =>
      json<HistoryView>(send("GET", `/api/v1/channels/${addressPath(address)}/history${queryText(query)}`)),
    /**
     * @param address of a channel;
     * @param days 1 to 90
     */
    trend: (address: string, days = 1) =>
      json<TrendView>(send("GET", `/api/v1/channels/${addressPath(address)}/trend?days=${days}`)),
    /** Success rate, counts and times over a period. */
    statistics: (query: StatisticsQuery = {}) =>
      json<StatisticsView>(send("GET", `/api/v1/statistics${queryText(query)}`)),
  };
}
