/** What an arrival would do, told without doing it: reading, route, commands, topic and bytes, and what would refuse it. */
import type { RehearsalView, RehearsedAskView } from "@bold-relay/api";
import {
  type Asker,
  type ChannelId,
  type CommandId,
  channelWords,
  decide,
  guard,
  type Intent,
  othersOf,
  payloadText,
  RelayError,
  type Situation,
  type Understood,
  writingFor,
} from "@bold-relay/core";
import type { Board } from "../state/board.ts";

export interface Rehearsal {
  readonly understood: Understood;
  readonly asker: Asker;
  readonly permitted: boolean;
  readonly reply: string;
}

export interface RehearsalDeps {
  readonly board: Board;
  readonly situationOf: (channel: ChannelId) => Situation;
}

/** Stands in payloads where the id of the command will be. */
const NO_ID = "00000000-0000-7000-8000-000000000000" as CommandId;

export function rehearsalView(
  { understood, asker, permitted, reply }: Rehearsal,
  deps: RehearsalDeps,
): Omit<RehearsalView, "findings"> {
  const asks = permitted && "asks" in understood ? understood.asks : [];
  const told = asks.map((ask) => rehearsedAsk({ ...ask, until: null, repeatKey: null }, asker, deps));
  const acts = told.some(({ sends }) => sends.length > 0);
  return {
    would: acts ? "act" : reply === "" ? "do-nothing" : "answer",
    route: "route" in understood ? understood.route : null,
    routeName: null,
    used: "asks" in understood ? understood.used.map((one) => ({ ...one })) : [],
    asks: told,
    reply:
      told.length > 0
        ? told
            .map(({ refusal }) => refusal ?? "")
            .join(" ")
            .trim()
        : reply,
  };
}

/** What one ask would send, or why it would be refused. */
export function rehearsedAsk(intent: Intent, asker: Asker, deps: RehearsalDeps): RehearsedAskView {
  const { target, action, value, forMs } = intent;
  return { target, action, value, forMs, ...wouldSend(intent, asker, deps) };
}

function wouldSend(intent: Intent, asker: Asker, { board, situationOf }: RehearsalDeps) {
  try {
    const guarded = guard(board.snapshot, intent, asker);
    if (guarded.parts === null) return { refusal: guarded.refusal.message, sends: [] };
    const orders = decide(board.snapshot, guarded.parts, guarded.bundle, situationOf);
    const blocked = orders.find((order) => order.blocked);
    const sends = orders
      .filter((order) => !order.blocked)
      .map(({ channel, to, forMs }) => {
        const others = othersOf(channel, board.snapshot, (other) => board.keptAs(other));
        const writing = writingFor(channel, NO_ID, to, forMs, others ?? 0);
        return {
          channel: channel.address,
          name: `${channel.name}, ${channel.room.name}`,
          to: channelWords(channel, to),
          topic: writing?.topic ?? "",
          payload: writing ? payloadText(writing.payload).replace(NO_ID, "…") : "",
        };
      });
    return { refusal: blocked ? `${blocked.channel.address}: ${blocked.blocked}` : null, sends };
  } catch (error) {
    if (error instanceof RelayError) return { refusal: error.message, sends: [] };
    throw error;
  }
}
