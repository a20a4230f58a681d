/** Writes at regular times what gathers in memory meanwhile, one writing at a time. */
export class RegularWriter {
  private readonly everyMs: number;
  private readonly writeOut: () => Promise<void> | null;
  private timer: NodeJS.Timeout | null = null;
  private writing: Promise<void> | null = null;

  /** @param writeOut begins a writing, which never rejects; null: there is nothing to write */
  constructor(everyMs: number, writeOut: () => Promise<void> | null) {
    this.everyMs = everyMs;
    this.writeOut = writeOut;
  }

  start(): void {
    this.timer = setInterval(() => void this.write(), this.everyMs);
  }

  /** Writes what is left. */
  async stop(): Promise<void> {
    this.abandon();
    await this.flush();
  }

  /** Another instance writes now: what is not written is given up. */
  abandon(): void {
    if (this.timer) clearInterval(this.timer);
  }

  /** Resolves once everything that has gathered so far was written, or could not be. */
  async flush(): Promise<void> {
    await this.writing;
    await this.write();
  }

  private async write(): Promise<void> {
    this.writing ??= this.writeOut();
    const mine = this.writing;
    await mine;
    // Whoever waited for the same writing may have begun the next one meanwhile.
    if (this.writing === mine) this.writing = null;
  }
}
