/** A small board behind a network that lets nobody in: it asks a mailbox for its next command and posts what came of it. */
import { isValue, type Value } from "@bold-relay/core";
import { type Contact, OutsideDevice, type OutsideOptions } from "./contacts.ts";

const AGAIN_MS = 300;

interface Letter {
  readonly id: string;
  readonly index: number;
  readonly to: unknown;
}

export class Poller extends OutsideDevice {
  private readonly url: string;
  private readonly key: string;
  private running: AbortController | null = null;

  /** @param url of the mailbox, up to the device's name */
  constructor(options: OutsideOptions, url: string, key: string) {
    super(options);
    this.url = `${url}/mailbox/${options.site}/${options.device}`;
    this.key = key;
  }

  protected async plugIn(): Promise<void> {
    const running = new AbortController();
    this.running = running;
    void this.poll(running.signal);
  }

  protected async pullOut(): Promise<void> {
    this.running?.abort();
    this.running = null;
  }

  protected override flipped(contact: Contact): void {
    void this.tellStates([contact]);
  }

  private async poll(signal: AbortSignal): Promise<void> {
    await this.tellStates(this.contacts);
    while (!signal.aborted) {
      try {
        const response = await fetch(`${this.url}?wait=20`, { headers: this.headers(), signal });
        if (response.status === 200) await this.obey((await response.json()) as Letter);
        else if (response.status !== 204) await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
      } catch {
        if (!signal.aborted) await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
      }
    }
  }

  private async obey({ id, index, to }: Letter): Promise<void> {
    this.heard.push(`${index} ${String(to)}`);
    const contact = this.at(index);
    if (this.fault === "silent" || !contact || !isValue(to)) return;
    await this.dawdle();
    if (this.fault === "refusing") return this.post({ id, ok: false, code: 9, why: "blocked by its key switch" });
    this.set(contact, to);
    await this.post({ id, ok: true, is: this.fault === "garbling" ? "sideways" : shownOf(contact, to) });
  }

  private tellStates(contacts: readonly Contact[]): Promise<void> {
    return this.post({ is: Object.fromEntries(contacts.map(({ slug, value }) => [slug, value])) });
  }

  private async post(body: object): Promise<void> {
    const headers = { ...this.headers(), "content-type": "application/json" };
    await fetch(this.url, { method: "POST", headers, body: JSON.stringify(body) }).catch(() => {});
  }

  private headers(): Record<string, string> {
    return { authorization: `Bearer ${this.key}` };
  }
}

function shownOf({ value }: Contact, to: Value): Value | null {
  return to === "pulse" ? null : value;
}
