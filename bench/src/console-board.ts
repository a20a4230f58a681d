/** A board of many channels in Chromium while devices report changes: how many frames a second it draws, and what its scripts hold. */
import { connectAsync } from "mqtt";
import { chromium, type Page } from "playwright-core";
import { SECRET } from "./bench-site.ts";
import { withoutDelay } from "./connection.ts";

export interface BoardLoad {
  readonly channels: number;
  readonly changesPerSecond: number;
  readonly framesPerSecond: number;
  /** The 99th percentile of the time between two frames, ms. */
  readonly slowFrameMs: number;
  /** What scripts hold after a collection, MB. */
  readonly heapMb: number;
}

interface BusyBoard {
  readonly url: string;
  readonly key: string;
  readonly brokerUrl: string;
  readonly seconds: number;
}

const CHANGES_PER_SECOND = 50;
/** Channels of `bench/board-…` that report. */
const REPORTING = 500;
const FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"];

export async function watchBusyBoard({ url, key, brokerUrl, seconds }: BusyBoard): Promise<BoardLoad> {
  const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: FLAGS });
  const devices = withoutDelay(await connectAsync(brokerUrl, { username: "bench", password: SECRET }));
  try {
    const page = await browser.newPage({
      viewport: { width: 1280, height: 800 },
      extraHTTPHeaders: { authorization: `Bearer ${key}` },
    });
    await page.goto(`${url}/board/bench`);
    await page.waitForFunction(() => document.querySelectorAll("tr[data-channel]").length >= 1_000);
    const channels = await page.locator("tr[data-channel]").count();
    const reporting = report((topic, payload) => devices.publishAsync(topic, payload, { qos: 1 }), seconds + 2);
    await page.waitForTimeout(1_000);
    const frames = await framesOf(page, seconds);
    const reports = await reporting;
    return { channels, changesPerSecond: reports / (seconds + 2), ...frames, heapMb: await heapOf(page) };
  } finally {
    await devices.endAsync();
    await browser.close();
  }
}

/** Every change is another channel's, on and off in turn. */
async function report(publish: (topic: string, payload: string) => Promise<unknown>, seconds: number): Promise<number> {
  const count = seconds * CHANGES_PER_SECOND;
  const startedAt = performance.now();
  for (let turn = 0; turn < count; turn += 1) {
    const due = startedAt + (turn * 1_000) / CHANGES_PER_SECOND;
    await new Promise((resolve) => setTimeout(resolve, Math.max(0, due - performance.now())));
    const channel = (turn * 7) % REPORTING;
    const topic = `bench/board-${Math.floor(channel / 16)}/relay-${channel % 16}/is`;
    await publish(topic, `{"to":"${Math.floor((turn * 7) / REPORTING) % 2 === 0 ? "on" : "off"}","by":"hand"}`);
  }
  return count;
}

async function framesOf(page: Page, seconds: number): Promise<Pick<BoardLoad, "framesPerSecond" | "slowFrameMs">> {
  const gaps = await page.evaluate(
    (ms) =>
      new Promise<number[]>((resolve) => {
        const gaps: number[] = [];
        let last = performance.now();
        const end = last + ms;
        const next = (now: number) => {
          gaps.push(now - last);
          last = now;
          if (now < end) requestAnimationFrame(next);
          else resolve(gaps);
        };
        requestAnimationFrame(next);
      }),
    seconds * 1_000,
  );
  const sorted = [...gaps].sort((one, other) => one - other);
  const total = gaps.reduce((sum, gap) => sum + gap, 0);
  return { framesPerSecond: (gaps.length * 1_000) / total, slowFrameMs: sorted[Math.floor(sorted.length * 0.99)] ?? 0 };
}

async function heapOf(page: Page): Promise<number> {
  const session = await page.context().newCDPSession(page);
  await session.send("HeapProfiler.collectGarbage");
  const { usedSize } = await session.send("Runtime.getHeapUsage");
  return usedSize / 1e6;
}
