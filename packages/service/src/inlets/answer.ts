/** What is said back to whoever brought an arrival, in the inlet's own words. */
import {
  type Arrival,
  type Choice,
  defaultReplies,
  fillReply,
  type InletDescription,
  kindOf,
  type RelayError,
  type Replies,
  resolveName,
  type Vocabulary,
} from "@bold-relay/core";
import type { Meaning, Talk } from "./arrival-reader.ts";
import { type Became, outcomeOfAll, type Settled } from "./became.ts";
import type { InletResult } from "./inlet.ts";
import { requestIn } from "./intents.ts";
import { refusalWords, resultWords, type StateInput, stateWords } from "./words.ts";

export class AnswerWriter {
  private readonly replies: Replies;
  private readonly description: InletDescription;
  private readonly states: StateInput;
  private readonly vocabulary: () => Vocabulary;

  constructor(description: InletDescription, states: StateInput, vocabulary: () => Vocabulary) {
    this.description = description;
    this.states = states;
    this.vocabulary = vocabulary;
    this.replies = { ...defaultReplies, ...description.replies };
  }

  /** What is answered now; what is still open is answered once more, later. */
  answer(became: Became, arrival: Arrival): Omit<InletResult, "later"> {
    switch (became.became) {
      case "unknown-sender":
        return said("unknown-sender", this.fill("unknownSender", arrival));
      case "ignored":
        return said("ignored", "");
      case "talk":
        return said(became.reading.reads === "which" ? "asked-which" : "answered", this.talk(became.reading, arrival));
      case "asked":
        return this.result(became.settled, became.reply, arrival);
      case "not-understood": {
        const reply = this.fill("unknown", arrival, { why: whyOf(became.refusal) });
        return { ...said("not-understood", reply), made: became.made };
      }
    }
  }

  /** What would be said, nothing done. */
  rehearsed(meaning: Meaning, isPermitted: boolean, arrival: Arrival): string {
    if (!isPermitted) return this.fill("unknownSender", arrival);
    switch (meaning.means) {
      case "ignore":
        return "";
      case "asks":
        return this.fillWith(meaning.reply ?? this.replies.result, arrival, { result: "…" });
      case "talk":
        return this.talk(meaning.reading, arrival);
      case "nothing":
        return this.fill("unknown", arrival, { why: whyOf(meaning.refusal) });
    }
  }

  private result(settled: Settled, reply: string | null, arrival: Arrival): Omit<InletResult, "later"> {
    const outcome = outcomeOfAll(settled);
    const words = { result: resultWords(settled, (target) => this.nameOf(target)), why: refusalWords(settled) };
    return {
      reply: this.fillWith(this.templateFor(outcome, reply), arrival, words),
      outcome,
      requests: settled.flatMap((one) => (one.status === "fulfilled" ? one.value : [])),
      made: settled.flatMap((one) => (one.status === "fulfilled" ? one.value.id : requestIn(one.reason))),
    };
  }

  /** A route's own words are for what has been done: they may not say what it came to. */
  private templateFor(outcome: string, reply: string | null): string {
    if (outcome === "delivered") return reply ?? this.replies.result;
    if (outcome === "refused") return this.replies.refused;
    return outcome === "open" ? this.replies.waiting : this.replies.result;
  }

  private talk(reading: Talk, arrival: Arrival): string {
    switch (reading.reads) {
      case "help":
        return this.fill("help", arrival);
      case "greeting":
        return this.fill("greeting", arrival);
      case "question":
        return stateWords(reading.question, this.states);
      case "which":
        return this.fill("which", arrival, { choices: choicesIn(reading.choices) });
    }
  }

  private fill(which: keyof Replies, arrival: Arrival, more: Record<string, string> = {}): string {
    return this.fillWith(this.replies[which], arrival, more);
  }

  private fillWith(template: string, { sender, text }: Arrival, more: Record<string, string>): string {
    const { name } = this.description;
    return fillReply(template, { sender: sender ?? "", words: text ?? "", name, example: this.example(), ...more });
  }

  /** Groups and scenes are requested by address where a phrase or a menu named them. */
  private nameOf(target: string): string {
    const found = resolveName(this.states.snapshot(), target, null);
    return "bundle" in found ? found.bundle.name : target;
  }

  private example(): string {
    const channel = this.vocabulary().channels.find(({ kind }) => "on" in kindOf(kind).actions);
    return channel ? `${channel.name.toLowerCase()} in ${channel.room.name} on` : "porch lantern on";
  }
}

function said(outcome: string, reply: string): Omit<InletResult, "later"> {
  return { reply, outcome, requests: [], made: [] };
}

function choicesIn(choices: readonly Choice[]): string {
  return choices.map(({ name }, index) => `(${index + 1}) ${name}`).join(" ");
}

/** The refusal's own reason, without the words that every reply has around it. */
function whyOf(refusal: RelayError): string {
  const { why } = refusal.facts;
  return typeof why === "string" ? why : refusal.message;
}
