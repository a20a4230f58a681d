/**
 * Typed commands over TCP: sign in with a key, then one phrase a line. An empty line helps; "keys" makes every single key a
 * command, by the routes for digits; "bye" leaves. What happens is shown as it happens.
 */

import { createServer, type Server, type Socket } from "node:net";
import { LineSplitter, NO_ARRIVAL, RelayError } from "@bold-relay/core";
import type { Log } from "../../platform/log.ts";
import type { Inlet, InletResult, OwnKind } from "../inlet.ts";
import type { InletKindWay } from "../kind.ts";
import { LinePlaces } from "../line-places.ts";
import { lineTrial } from "../line-trial.ts";
import { needed } from "../trial-exchange.ts";
import { WrongTries } from "../wrong-tries.ts";

interface Settings {
  readonly port: number;
  readonly host?: string;
  readonly idleS?: number;
}

interface LineDeps {
  /** The id of this inlet's key with this text; null: it is none. */
  readonly keyOf: (key: string) => Promise<number | null>;
  /** An address is not heard for a while. */
  readonly noteWrongKeys: (address: string) => void;
  /** Whether the configuration lets an inlet listen there. */
  readonly mayListen: (address: string, port: number) => boolean;
  readonly log: Log;
}

const DEFAULT_HOST = "127.0.0.1";
const IDLE_S = 600;
const SIGN_IN_MS = 30_000;
const LONGEST_LINE = 600;
/** What the system accepts at all: more than `LinePlaces` gives, so that it is the one that chooses. */
const MOST_CONNECTIONS = 150;
const WRONG_KEYS = 3;
/** How long the outcome is waited for before the next line is taken, ms. */
const WAIT_MS = 10_000;
const AGAIN_MS = 5_000;
const CTRL_C = 3;
const CTRL_D = 4;
const ESC = 27;

class LineInlet implements OwnKind {
  health = { up: false, trouble: null as string | null };
  private readonly inlet: Inlet;
  private readonly deps: LineDeps;
  private readonly settings: Settings;
  private readonly places = new LinePlaces();
  private readonly wrongKeys = new WrongTries();
  private server: Server | null = null;
  private again: NodeJS.Timeout | null = null;

  constructor(inlet: Inlet, deps: LineDeps) {
    this.inlet = inlet;
    this.deps = deps;
    this.settings = inlet.description.settings as unknown as Settings;
  }

  start(): void {
    const { port, host = DEFAULT_HOST } = this.settings;
    if (!this.deps.mayListen(host, port)) {
      const trouble = `${host}:${port} is not among the addresses where inlets may listen. Add it to BOLD_RELAY_MAY_LISTEN.`;
      this.health = { up: false, trouble };
      return;
    }
    // Half open: who sends lines and closes their side at once, as `printf … | nc` does, still gets the answers.
    const server = createServer({ allowHalfOpen: true }, (socket) => this.take(socket));
    this.server = server;
    server.maxConnections = MOST_CONNECTIONS;
    server.on("error", (error: NodeJS.ErrnoException) => {
      const why = error.code === "EADDRINUSE" ? "is taken by another program" : `cannot be listened on (${error.code})`;
      this.health = { up: false, trouble: `Port ${port} ${why}. It is tried again every ${AGAIN_MS / 1000} s.` };
      this.again = setTimeout(() => server.listen(port, host), AGAIN_MS).unref();
    });
    server.on("listening", () => {
      this.health = { up: true, trouble: null };
    });
    server.listen(port, host);
  }

  /** Where it listens just now; null: nowhere. */
  get address(): { readonly host: string; readonly port: number } | null {
    return this.health.up ? { host: this.settings.host ?? DEFAULT_HOST, port: this.settings.port } : null;
  }

  async stop(): Promise<void> {
    if (this.again) clearTimeout(this.again);
    this.places.clear();
    const server = this.server;
    this.server = null;
    if (!server) return;
    // One that is about to listen cannot be closed before it does.
    if (!server.listening) server.once("listening", () => server.close());
    else await new Promise<void>((resolve) => server.close(() => resolve()));
  }

  private take(socket: Socket): void {
    const address = socket.remoteAddress ?? "";
    socket.on("error", () => {});
    const mustWait = this.wrongKeys.waitMs(address) > 0;
    if (mustWait) this.deps.noteWrongKeys(address);
    if (mustWait || !this.places.enter(socket)) {
      // Nothing is read of it: without this its end would never be seen, and it would stay.
      socket.end("Too many sessions or wrong keys from your address. Try again in a minute.\r\n", () =>
        socket.destroy(),
      );
      return;
    }
    socket.setNoDelay(true);
    // However slowly somebody types: a place is for who has a key.
    const signInTimer = setTimeout(() => {
      socket.end("No key within 30 s.\r\n");
      // The other side may leave its half open for ever.
      socket.destroySoon();
    }, SIGN_IN_MS);
    socket.on("close", () => clearTimeout(signInTimer));
    const idleMs = (this.settings.idleS ?? IDLE_S) * 1_000;
    const onSignIn = (keyId: number | null) => {
      if (keyId === null) this.wrongKeys.note(address);
      const hasPlace = keyId !== null && this.places.signIn(socket, keyId);
      if (hasPlace) clearTimeout(signInTimer);
      return hasPlace;
    };
    new Session(socket, this.inlet, this.deps, { idleMs, onSignIn }).begin();
  }
}

interface SessionTerms {
  readonly idleMs: number;
  /** @param keyId null: it was no key of this inlet. @returns whether it is a session now: there may be no place for another */
  readonly onSignIn: (keyId: number | null) => boolean;
}

/** One caller. Lines are taken one at a time: what is typed meanwhile waits in the socket. */
class Session {
  private readonly socket: Socket;
  private readonly inlet: Inlet;
  private readonly deps: LineDeps;
  private readonly terms: SessionTerms;
  private readonly splitter = new LineSplitter(LONGEST_LINE);
  private key = "";
  private keyId: number | null = null;
  private wrong = 0;
  private singleKeys = false;

  constructor(socket: Socket, inlet: Inlet, deps: LineDeps, terms: SessionTerms) {
    this.socket = socket;
    this.inlet = inlet;
    this.deps = deps;
    this.terms = terms;
  }

  begin(): void {
    this.say(`${this.inlet.description.name}\r\nKey: `);
    let work = Promise.resolve();
    this.socket.on("end", () => work.then(() => this.socket.end()));
    this.socket.on("data", (piece: Buffer) => {
      this.socket.pause();
      work = this.takePiece(piece)
        .catch((error: unknown) => {
          this.deps.log.error({ err: error }, "a typed line failed");
          this.socket.destroy();
        })
        .finally(() => this.socket.resume());
    });
  }

  private async takePiece(piece: Buffer): Promise<void> {
    if (this.singleKeys) return this.takeKeys(piece);
    for (const line of this.splitter.push(piece)) {
      if (this.socket.destroyed || this.socket.writableEnded) return;
      if ("dropped" in line)
        this.say(`That line was ${line.dropped === "too-long" ? "too long" : "no text"}. Nothing was sent.\r\n> `);
      else if (this.keyId === null) await this.signIn(line.text.trim());
      else await this.obey(line.text.trim());
    }
  }

  private async signIn(key: string): Promise<void> {
    const keyId = key === "" ? null : await this.deps.keyOf(key);
    if (keyId !== null) {
      if (!this.terms.onSignIn(keyId)) {
        this.socket.end("This key or this inlet has too many sessions. End one, then try again.\r\n");
        return;
      }
      this.key = key;
      this.keyId = keyId;
      this.socket.setTimeout(this.terms.idleMs, () =>
        this.socket.end("Nothing was typed for too long. The session has ended.\r\n"),
      );
      return this.say("Signed in. An empty line shows help.\r\n> ");
    }
    if (key !== "") this.terms.onSignIn(null);
    this.wrong += 1;
    if (this.wrong >= WRONG_KEYS) this.socket.end("That is not a key of this inlet.\r\n");
    else this.say("That is not a key of this inlet.\r\nKey: ");
  }

  private async obey(line: string): Promise<void> {
    if (/^(?:bye|quit|exit)$/i.test(line)) return void this.socket.end("Bye.\r\n");
    if (/^keys$/i.test(line)) {
      this.singleKeys = true;
      return this.say("Every key is a command now. Esc ends this.\r\n");
    }
    await this.hear({ ...NO_ARRIVAL, text: line === "" ? "help" : line });
    this.say("> ");
  }

  private async takeKeys(piece: Buffer): Promise<void> {
    for (const byte of piece) {
      if (byte === ESC || byte === CTRL_C || byte === CTRL_D) {
        this.singleKeys = false;
        return this.say("Phrases again.\r\n> ");
      }
      const key = String.fromCharCode(byte);
      if (/[0-9*#]/.test(key)) await this.hear({ ...NO_ARRIVAL, digits: key });
    }
  }

  private async hear(arrival: typeof NO_ARRIVAL): Promise<void> {
    // A key that was taken back, or has run out, ends the session that began with it.
    if ((await this.deps.keyOf(this.key)) === null) return void this.socket.end("Your key is no longer valid.\r\n");
    try {
      const first = await this.inlet.hear(arrival, { keyId: this.keyId, repeatKey: null, waitMs: 0 });
      if (first.later === null) return this.tell(first);
      this.say("accepted …\r\n");
      this.tell(await Promise.race([first.later, after(WAIT_MS, first)]));
    } catch (error) {
      if (!(error instanceof RelayError)) throw error;
      this.say(`${error.message}\r\n`);
    }
  }

  /** Says what became of it, and puts on record whether the session could still hear it. */
  private tell(result: InletResult): void {
    const note = (why: string | null) =>
      this.inlet.told(result, { how: "typed", said: result.reply, taken: why === null, why });
    if (this.socket.writableEnded || this.socket.destroyed) return note("the session had ended");
    this.socket.write(`${result.reply}\r\n`, (error) => note(error ? "the session had ended" : null));
  }

  private say(text: string): void {
    if (!this.socket.writableEnded) this.socket.write(text);
  }
}

function after(ms: number, result: InletResult): Promise<InletResult> {
  return new Promise((resolve) => {
    setTimeout(() => resolve(result), ms).unref();
  });
}

export const lineWay: InletKindWay = {
  open(inlet, { keyOf, noteWrongKeys, mayListen, log }) {
    const { slug } = inlet.description;
    return new LineInlet(inlet, {
      keyOf: (key) => keyOf(key, slug),
      noteWrongKeys: (address) => noteWrongKeys(address, slug),
      mayListen,
      log,
    });
  },
  async trial({ own, arrival: { text }, key }) {
    const proof = needed(key, "one of the inlet's keys");
    const address = own instanceof LineInlet ? own.address : null;
    // Only where this inlet itself listens: a description may name any place.
    if (address === null)
      throw new RelayError("bad-request", { why: own?.health.trouble ?? "This inlet does not listen just now" });
    return [await lineTrial(address, text ?? "", proof)];
  },
};
