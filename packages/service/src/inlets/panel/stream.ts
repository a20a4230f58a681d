/** The live events of a panel: all of it first, then each item as it changes, until the panel or the key counts no more. */
import type { ServerResponse } from "node:http";
import type { PanelEvents } from "@bold-relay/api";
import { type InletDescription, type PanelPart, panelParts, RelayError, type Snapshot } from "@bold-relay/core";
import { limits } from "../../platform/config/limits.ts";
import { channelsOf, type PanelSource, panelItemView, panelView } from "./view.ts";

/** So often it is looked at whether its key and its panel still count. */
const LOOK_MS = 500;
/** Every so many looks the other side is told that the connection stands: every 4 s. */
const HERE_EVERY = 8;
/** How many may look with one key, at one panel, and at all panels of this instance. */
const [MOST_A_KEY, MOST_A_PANEL, MOST] = [10, 50, 400];

export interface PanelStreamDeps {
  readonly source: PanelSource;
  /** The panel as it is described now. Rejects when the caller may look no more. */
  readonly current: () => Promise<InletDescription>;
}

export class PanelStreams {
  private readonly open = new Map<ServerResponse, { readonly slug: string; readonly keyId: number }>();

  /** @throws RelayError service-busy or too-many-streams */
  async serve(res: ServerResponse, inlet: InletDescription, keyId: number, deps: PanelStreamDeps): Promise<void> {
    const { slug } = inlet;
    const open = [...this.open.values()];
    if (open.filter((one) => one.keyId === keyId).length >= MOST_A_KEY)
      throw new RelayError("too-many-streams", { most: MOST_A_KEY, what: "views of a panel by one link" });
    if (open.length >= MOST || open.filter((one) => one.slug === slug).length >= MOST_A_PANEL)
      throw new RelayError("service-busy", { why: "Too many views of panels are open" });
    this.open.set(res, { slug, keyId });
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

/** By the address of a channel, the parts that show its state. */
type PartsByChannel = ReadonlyMap<string, readonly PanelPart[]>;

function partsByChannel(parts: readonly PanelPart[], source: PanelSource): PartsByChannel {
  const found = new Map<string, PanelPart[]>();
  for (const part of parts)
    for (const { address } of channelsOf(part, source)) found.set(address, [...(found.get(address) ?? []), part]);
  return found;
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
  private known: { readonly snapshot: Snapshot; readonly parts: PartsByChannel } | null = null;

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

  /** Gathered until the next turn: a scene changes many channels at once. Of most changes a panel shows nothing. */
  private note(channel: string | null): void {
    if (channel !== null && !this.parts().has(channel)) return;
    this.changed.add(channel ?? "");
    this.frame ??= setTimeout(() => this.flush(), 0);
  }

  private flush(): void {
    this.frame = null;
    const { source } = this.deps;
    const changed = [...this.changed];
    this.changed.clear();
    if (changed.includes("")) return this.send("panel", panelView(this.inlet, source));
    const parts = new Set(changed.flatMap((address) => this.parts().get(address) ?? []));
    for (const part of parts) this.send("item", panelItemView(part, this.inlet.slug, source));
  }

  /** Looked up once for each state of the sites: names need not be found again with every change of a lamp. */
  private parts(): PartsByChannel {
    const { source } = this.deps;
    const snapshot = source.snapshot();
    if (this.known?.snapshot !== snapshot)
      this.known = { snapshot, parts: partsByChannel(panelParts(this.inlet, snapshot), source) };
    return this.known.parts;
  }

  /** A panel that was changed is told anew; one that is paused or deleted, or a key that was revoked, ends it. */
  private async look(): Promise<void> {
    try {
      const now = await this.deps.current();
      this.looks += 1;
      if (this.looks % HERE_EVERY === 0) this.send("here", { at: new Date(this.deps.source.now()).toISOString() });
      if (now === this.inlet) return;
      this.inlet = now;
      this.known = null;
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
