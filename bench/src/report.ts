/** The figures as a table, each ratio beside its aim. */
import Table from "cli-table3";
import type { LoadResult } from "./load.ts";
import type { MemoryParts } from "./memory.ts";

export interface Figures {
  readonly raw: { readonly before: Measured; readonly after: Measured; readonly low: LoadResult };
  /** One request made durable, and one bare insert, ms. */
  readonly accept: { readonly bareMs: number; readonly acceptMs: number };
  /** Acknowledged by the device, and durable; asked by HTTP. */
  readonly http: Measured;
  /** The same by a topic inlet, answered on a topic. */
  readonly topic: Measured;
  /** By HTTP, from a device that reports what it is, too. */
  readonly confirmed: Measured;
  /** The first of these on a service that keeps nothing. */
  readonly withoutJournal: LoadResult;
  readonly low: { readonly accepted: LoadResult; readonly acknowledged: LoadResult; readonly confirmed: LoadResult };
  readonly memory: { readonly afterWarmUp: MemoryParts; readonly loaded: MemoryParts };
}

interface Measured {
  readonly load: LoadResult;
  /** CPU a request, µs, by process. */
  readonly cpuMicroseconds: Readonly<Record<"service" | "database" | "broker" | "device" | "askers", number>>;
}

export interface Ratio {
  readonly name: string;
  readonly value: number;
  /** null: it is told for comparison. */
  readonly aim: number | null;
  readonly better: "higher" | "lower";
}

export function ratiosOf({ raw, accept, http, topic, confirmed, withoutJournal, low, memory }: Figures): Ratio[] {
  const rawRate = (raw.before.load.perSecond + raw.after.load.perSecond) / 2;
  const sum = ({ cpuMicroseconds: { broker, device, askers } }: Measured) => broker + device + askers;
  const rawCpu = (sum(raw.before) + sum(raw.after)) / 2;
  const rate = (measured: Measured) => measured.load.perSecond / rawRate;
  const to = (result: LoadResult) => result.p50 / raw.low.p50;
  const aimed = (name: string, value: number, better: Ratio["better"], aim: number) => ({ name, value, aim, better });
  return [
    aimed("acknowledged, durable requests/s by HTTP ÷ raw round trips/s", rate(http), "higher", 0.28),
    aimed("acknowledged, durable requests/s by topic inlet ÷ raw round trips/s", rate(topic), "higher", 0.26),
    aimed("HTTP 202 (durable) p50 ÷ raw p50, at 50/s", to(low.accepted), "lower", 2),
    aimed("HTTP 200 (acknowledged, durable) p50 ÷ raw p50, at 50/s", to(low.acknowledged), "lower", 3.5),
    aimed("service CPU a request by HTTP, µs", http.cpuMicroseconds.service, "lower", 150),
    aimed("service CPU a request by topic inlet, µs", topic.cpuMicroseconds.service, "lower", 150),
    aimed("database CPU a request by HTTP, µs", http.cpuMicroseconds.database, "lower", 75),
    aimed("database CPU a request by topic inlet, µs", topic.cpuMicroseconds.database, "lower", 75),
    {
      name: "service CPU a request by HTTP ÷ CPU of all parts a raw round trip",
      value: http.cpuMicroseconds.service / rawCpu,
      aim: null,
      better: "lower",
    },
    {
      name: "the same by topic inlet",
      value: topic.cpuMicroseconds.service / rawCpu,
      aim: null,
      better: "lower",
    },
    aimed("one accept ÷ one bare durable insert, low load", accept.acceptMs / accept.bareMs, "lower", 1.8),
    aimed("resident memory under full load, MB", memory.loaded.resident, "lower", 170),
    {
      name: "with journal ÷ without, by HTTP",
      value: http.load.perSecond / withoutJournal.perSecond,
      aim: null,
      better: "higher",
    },
    {
      name: "confirmed too, by HTTP: requests/s ÷ raw round trips/s",
      value: rate(confirmed),
      aim: null,
      better: "higher",
    },
    { name: "confirmed too, by HTTP: p50 ÷ raw p50, at 50/s", value: to(low.confirmed), aim: null, better: "lower" },
  ];
}

export function printReport(figures: Figures, ratios: readonly Ratio[]): void {
  const { raw, http, topic, confirmed, withoutJournal, low, memory } = figures;
  const loads = new Table({
    head: ["path", "load", "requests", "per second", "p50 ms", "p99 ms"],
    style: plain,
    colAligns: RIGHT,
  });
  loads.push(
    row("raw round trip", "256 askers, before", raw.before.load),
    row("raw round trip", "256 askers, after", raw.after.load),
    row("full: acknowledged, durable, by HTTP", "256 askers", http.load),
    row("full: acknowledged, durable, by topic", "256 askers", topic.load),
    row("full: confirmed, durable, by HTTP", "256 askers", confirmed.load),
    row("acknowledged, kept nowhere, by HTTP", "256 askers", withoutJournal),
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
    const digits = value < 50 ? 2 : 0;
    const wanted = aim === null ? "" : `${better === "higher" ? "≥" : "≤"} ${aim}`;
    aims.push([name, value.toFixed(digits), wanted, aim === null ? "" : verdict(value, aim, better)]);
  }
  const cpu = new Table({ head: ["CPU a request, µs", ...PARTS], style: plain });
  for (const [name, { cpuMicroseconds }] of Object.entries({ raw: raw.before, http, topic, confirmed }))
    cpu.push([name, ...PARTS.map((part) => cpuMicroseconds[part].toFixed(0))]);
  const kept = new Table({ head: ["memory, MB", ...MEMORY], style: plain });
  for (const [name, parts] of Object.entries(memory))
    kept.push([name, ...MEMORY.map((part) => parts[part].toFixed(0))]);
  const tables = [loads, aims, cpu, kept].map((table) => table.toString());
  process.stdout.write(`\n${tables.join("\n\n")}\n\n`);
}

const MEMORY = ["resident", "files", "youngHeap", "oldHeap", "buffers", "other"] as const;
const PARTS = ["service", "database", "broker", "device", "askers"] as const;

function verdict(value: number, aim: number, better: Ratio["better"]): string {
  return (better === "higher" ? value >= aim : value <= aim) ? "met" : "not met";
}

const plain = { head: [], border: [] };
const RIGHT: ("left" | "right")[] = ["left", "left", "right", "right", "right", "right"];

function row(path: string, load: string, { count, perSecond, p50, p99 }: LoadResult): string[] {
  return [path, load, String(count), perSecond.toFixed(0), p50.toFixed(2), p99.toFixed(2)];
}

/** @example rangeText([90, 93, 96]) // → "90-96, median 93" */
export function rangeText(figures: readonly number[]): string {
  const sorted = [...figures].sort((one, other) => one - other);
  const [least, most] = [sorted[0], sorted.at(-1)];
  return least === most ? String(least) : `${least}-${most}, median ${sorted[Math.floor(sorted.length / 2)]}`;
}
