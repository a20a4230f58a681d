/** The figures as a table, each ratio beside its aim. */
import Table from "cli-table3";
import type { LoadResult } from "./load.ts";

export interface Figures {
  readonly raw: { readonly before: LoadResult; readonly after: LoadResult; readonly low: LoadResult };
  readonly full: LoadResult;
  /** The same by a topic inlet, answered on a topic. */
  readonly topic: LoadResult;
  readonly low: { readonly accepted: LoadResult; readonly acknowledged: LoadResult; readonly confirmed: LoadResult };
  /** CPU a request under full load, µs, by process. */
  readonly cpuMicroseconds: CpuByPart;
  readonly topicCpuMicroseconds: CpuByPart;
  readonly residentMb: { readonly idle: number; readonly loaded: number };
}

type CpuByPart = Readonly<Record<"service" | "database" | "broker" | "device" | "askers", number>>;

export interface Ratio {
  readonly name: string;
  readonly value: number;
  readonly aim: number;
  readonly better: "higher" | "lower";
}

export function ratiosOf({
  raw,
  full,
  topic,
  low,
  cpuMicroseconds,
  topicCpuMicroseconds,
  residentMb,
}: Figures): Ratio[] {
  const rawRate = (raw.before.perSecond + raw.after.perSecond) / 2;
  const to = (result: LoadResult) => result.p50 / raw.low.p50;
  return [
    {
      name: "confirmed, durable requests/s by HTTP ÷ raw round trips/s",
      value: full.perSecond / rawRate,
      aim: 0.3,
      better: "higher",
    },
    {
      name: "confirmed, durable requests/s by topic inlet ÷ raw round trips/s",
      value: topic.perSecond / rawRate,
      aim: 0.4,
      better: "higher",
    },
    { name: "HTTP 202 (durable) p50 ÷ raw p50, at 50/s", value: to(low.accepted), aim: 2.5, better: "lower" },
    { name: "HTTP 200 (acknowledged) p50 ÷ raw p50, at 50/s", value: to(low.acknowledged), aim: 4, better: "lower" },
    { name: "HTTP 200 (confirmed, durable) p50 ÷ raw p50, at 50/s", value: to(low.confirmed), aim: 4, better: "lower" },
    { name: "service CPU a request by HTTP, µs", value: cpuMicroseconds.service, aim: 180, better: "lower" },
    { name: "service CPU a request by topic inlet, µs", value: topicCpuMicroseconds.service, aim: 90, better: "lower" },
    { name: "resident memory under full load, MB", value: residentMb.loaded, aim: 160, better: "lower" },
  ];
}

export function printReport(figures: Figures, ratios: readonly Ratio[]): void {
  const { raw, full, topic, low } = figures;
  const loads = new Table({
    head: ["path", "load", "requests", "per second", "p50 ms", "p99 ms"],
    style: plain,
    colAligns: RIGHT,
  });
  loads.push(
    row("raw round trip", "256 askers, before", raw.before),
    row("raw round trip", "256 askers, after", raw.after),
    row("full: confirmed, durable, by HTTP", "256 askers", full),
    row("full: confirmed, durable, by topic", "256 askers", topic),
    row("raw round trip", "50/s", raw.low),
    row("full: 202, durable", "50/s", low.accepted),
    row("full: 200, acknowledged, durable", "50/s", low.acknowledged),
    row("full: 200, confirmed, durable", "50/s", low.confirmed),
  );
  const aims = new Table({
    head: ["ratio", "value", "aim", ""],
    style: plain,
    colAligns: ["left", "right", "right", "left"],
  });
  for (const { name, value, aim, better } of ratios) {
    const met = better === "higher" ? value >= aim : value <= aim;
    const digits = aim < 100 ? 2 : 0;
    aims.push([name, value.toFixed(digits), `${better === "higher" ? "≥" : "≤"} ${aim}`, met ? "met" : "not met"]);
  }
  const byHttp = `CPU a request by HTTP, µs: ${costs(figures.cpuMicroseconds)}`;
  const byTopic = `CPU a request by topic, µs: ${costs(figures.topicCpuMicroseconds)}`;
  process.stdout.write(`\n${loads.toString()}\n\n${aims.toString()}\n\n${byHttp}\n${byTopic}\n\n`);
}

function costs(byPart: CpuByPart): string {
  return Object.entries(byPart)
    .map(([part, micros]) => `${part} ${micros.toFixed(0)}`)
    .join(", ");
}

const plain = { head: [], border: [] };
const RIGHT: ("left" | "right")[] = ["left", "left", "right", "right", "right", "right"];

function row(path: string, load: string, { count, perSecond, p50, p99 }: LoadResult): string[] {
  return [path, load, String(count), perSecond.toFixed(0), p50.toFixed(2), p99.toFixed(2)];
}
