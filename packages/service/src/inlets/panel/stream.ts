/** The live events of a panel: all of it first, then each item as it changes, until the panel or the key counts no more. */
import type { ServerResponse } from "node:http";
import type { PanelEvents } from "@bold-relay/api";
import { type InletDescription, panelParts, RelayError } from "@bold-relay/core";
import { limits } from "../../platform/config/limits.ts";
import { channelsOf, type PanelSource, panelItemView, panelView } from "./view.ts";

/** So often it is looked at whether its key and its panel still count. */
const LOOK_MS = 500;
/** Every so many looks the other side is told that the connection stands: every 4 s. */
const HERE_EVERY = 8;
/** How many may look at one panel, and at all panels of this instance. */
const [MOST_EACH, MOST] = [50, 400];

export interface PanelStreamDeps {
  readonly source: PanelSource;
  /** The panel as it is described now. Rejects when the caller may look no more. */
  readonly current: () => Promise<InletDescription>;
}

export class PanelStreams {
  private readonly open = new Map<ServerResponse, string>();

  /** @throws RelayError service-busy or too-many-streams */
  async serve(res: ServerResponse, inlet: InletDescription, deps: PanelStreamDeps): Promise<void> {
    const { slug } = inlet;
    if ([...this.open.values()].filter((one) => one === slug).length >= MOST_EACH)
      throw new RelayError("too-many-streams", { most: MOST_EACH, what: "views of this panel" });
    if (this.open.size >= MOST) throw new RelayError("service-busy", { why: "Too many panels are open" });
    this.open.set(res, slug);
    res.writeHead(200, {
      "content-type": "text/event-stream; charset=utf-8",
      "cache-control": "no-store",
      "x-accel-buffering": "no",
    });
    const stream = new PanelStream(res, inlet, deps);
    res.on("close", () => {
      stream.stop();
      this.open.delete(res);
    });
    stream.start();
  }
}

class PanelStream {
  private readonly res: ServerResponse;
  private readonly deps: PanelStreamDeps;
  private inlet: InletDescription;
  private readonly changed = new Set<string>();
  private frame: NodeJS.Timeout | null = null;
  private beat: NodeJS.Timeout | null = null;
  private end: (() => void) | null = null;
  private looks = 0;

  constructor(res: ServerResponse, inlet: InletDescription, deps: PanelStreamDeps) {
    this.res = res;
    this.inlet = inlet;
    this.deps = deps;
  }

  start(): void {
    const { source } = this.deps;
    this.end = source.watch({ changed: (channel) => this.note(channel), ended: () => this.res.end() });
    this.send("panel", panelView(this.inlet, source));
    this.beat = setInterval(() => void this.look(), LOOK_MS);
  }

  stop(): void {
    this.end?.();
    if (this.beat) clearInterval(this.beat);
    if (this.frame) clearTimeout(this.frame);
  }

  /** Gathered until the next turn: a scene changes many channels at once. */
  private note(channel: string | null): void {
    this.changed.add(channel ?? "");
    this.frame ??= setTimeout(() => this.flush(), 0);
  }

  private flush(): void {
    this.frame = null;
    const { source } = this.deps;
    const changed = new Set(this.changed);
    this.changed.clear();
    if (changed.has("")) return this.send("panel", panelView(this.inlet, source));
    for (const part of panelParts(this.inlet, source.snapshot())) {
      if (!channelsOf(part, source).some(({ address }) => changed.has(address))) continue;
      this.send("item", panelItemView(part, this.inlet.slug, source));
    }
  }

  /** A panel that was changed is told anew; one that is paused or deleted, or a key that was revoked, ends it. */
  private async look(): Promise<void> {
    try {
      const now = await this.deps.current();
      this.looks += 1;
      if (this.looks % HERE_EVERY === 0) this.send("here", { at: new Date(this.deps.source.now()).toISOString() });
      if (now === this.inlet) return;
      this.inlet = now;
      this.send("panel", panelView(now, this.deps.source));
    } catch (error) {
      this.send("ended", { why: error instanceof Error ? error.message : String(error) });
      this.res.end();
    }
  }

  /** A reader that does not keep up is cut off; it will come back and read afresh. */
  private send<Name extends keyof PanelEvents>(name: Name, data: PanelEvents[Name]): void {
    if (this.res.writableLength > limits.liveBacklogBytes) this.res.destroy();
    else if (!this.res.writableEnded) this.res.write(`event: ${name}\ndata: ${JSON.stringify(data)}\n\n`);
  }
}
