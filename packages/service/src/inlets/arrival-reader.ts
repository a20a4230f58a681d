/** What an arrival means at one inlet: by its routes, by the grammar, and by what its sender was asked before. */
import {
  type Arrival,
  buildRouter,
  buildVocabulary,
  type ChannelEntry,
  type Decided,
  type InletDescription,
  inletKinds,
  type PhraseAsk,
  type Reading,
  RelayError,
  type Router,
  roleAt,
  type Snapshot,
  type Understood,
  type Used,
  understand,
  unreadWords,
  type Vocabulary,
} from "@bold-relay/core";
import { directAsk, wordsOf } from "./intents.ts";
import { PendingChoices } from "./pending.ts";

/** What is read from an arrival. */
export type Meaning =
  /** Something is asked, of one channel or of several. */
  | {
      readonly means: "asks";
      readonly asks: readonly PhraseAsk[];
      readonly used: readonly Used[];
      readonly route: number | null;
      readonly reply: string | null;
    }
  /** A question, a greeting, a call for help, or a name that several have: it is answered, and nothing is asked of a channel. */
  | { readonly means: "talk"; readonly reading: Talk; readonly route: number | null }
  /** Its route says that it means nothing. */
  | { readonly means: "ignore"; readonly route: number }
  | { readonly means: "nothing"; readonly refusal: RelayError; readonly route: number | null };

export type Talk = Exclude<Reading, { reads: "asks" } | { reads: "nothing" }>;

export interface ReaderDeps {
  readonly snapshot: () => Snapshot;
  /** What a channel is known to be now, as text; null when nobody can say. */
  readonly observed: (channel: ChannelEntry) => string | null;
}

const NO_ROUTES = buildRouter([]);

export class ArrivalReader {
  readonly router: Router;
  private readonly description: InletDescription;
  private readonly sites: readonly string[] | null;
  private readonly deps: ReaderDeps;
  private readonly pending = new PendingChoices();
  private known: { readonly snapshot: Snapshot; readonly vocabulary: Vocabulary } | null = null;

  /** @param sites where its names are looked for; null: everywhere */
  constructor(description: InletDescription, sites: readonly string[] | null, deps: ReaderDeps) {
    this.description = description;
    this.sites = sites;
    this.deps = deps;
    this.router = buildRouter(description.routes ?? []);
  }

  get vocabulary(): Vocabulary {
    const snapshot = this.deps.snapshot();
    if (this.known?.snapshot !== snapshot)
      this.known = { snapshot, vocabulary: buildVocabulary(snapshot, this.sites, this.description.synonyms) };
    return this.known.vocabulary;
  }

  /** @returns what it means, and the words that say so: those of the first question, where this answers “which one?” */
  read(arrival: Arrival): { readonly meaning: Meaning; readonly text: string } {
    const { understood, text } = this.understood(arrival);
    this.pending.forget(senderOf(arrival));
    return { meaning: this.meaningOf(understood), text };
  }

  /** The same as the core sees it. Nothing is forgotten by it. */
  understood(arrival: Arrival): { readonly understood: Understood; readonly text: string } {
    const answered = arrival.text === null ? null : this.pending.answered(senderOf(arrival), arrival.text);
    if (!answered) return { understood: this.look(arrival), text: wordsOf(arrival) };
    const { text, decided } = answered;
    return { understood: this.look({ ...arrival, text }, decided), text };
  }

  meaningOf(understood: Understood): Meaning {
    if ("asks" in understood) return { means: "asks", ...understood };
    if ("ignored" in understood) return { means: "ignore", route: understood.route };
    if (!("reading" in understood)) {
      const route = "route" in understood ? understood.route : null;
      return { means: "nothing", refusal: this.refusalOf(understood), route };
    }
    const { reading, route } = understood;
    if (reading.reads !== "nothing") return { means: "talk", reading, route };
    const why = unreadWords(reading.why, reading.words, reading.nearest);
    return {
      means: "nothing",
      refusal: new RelayError("not-understood", { why, nearest: [...reading.nearest] }),
      route,
    };
  }

  /** What its sender says next is taken for the answer to this. */
  rememberChoice(arrival: Arrival, text: string, reading: Extract<Talk, { reads: "which" }>): void {
    this.pending.remember(senderOf(arrival), { ...reading, text });
  }

  private look(arrival: Arrival, decided?: Decided): Understood {
    const direct = directAsk(this.description.kind, arrival.fields);
    const { offers } = inletKinds[this.description.kind];
    if (direct && offers && !offers(this.description, direct, this.deps.snapshot())) return { noRoute: true };
    if (direct) return { asks: [direct], used: [], route: null, reply: null };
    const input = {
      observed: this.deps.observed,
      roleOf: (from: Arrival) => roleAt(this.description.roles, from),
    };
    const router = arrival.link ? NO_ROUTES : this.router;
    const { vocabulary } = this;
    return understand(arrival, { router, vocabulary, input, ...(decided ? { decided } : {}) });
  }

  private refusalOf(understood: Extract<Understood, { unmapped: string } | { noRoute: true }>): RelayError {
    if ("noRoute" in understood && inletKinds[this.description.kind].offers)
      return new RelayError("not-permitted", { why: `${this.description.name} does not offer this` });
    if ("noRoute" in understood) return new RelayError("no-route", { inlet: this.description.name });
    const known = understood.known.slice(0, 10).map((one) => `“${one}”`);
    const why = `“${understood.unmapped}” means nothing here.${known.length > 0 ? ` It takes ${known.join(", ")}.` : ""}`;
    return new RelayError("not-understood", { why, nearest: understood.known.slice(0, 10) });
  }
}

function senderOf({ room, sender }: Arrival): string {
  return `${room ?? ""} ${sender ?? ""}`;
}
