/** Why a command stopped, in words for each reason: what it means for the channel, and what to do. */
import type { Reason } from "../delivery/command.ts";
import type { VerdictFacts } from "./verdict-facts.ts";

interface Stop {
  /** A few words: where it stopped. */
  readonly headline: string;
  /** One to three sentences. */
  readonly text: string;
}

/** The words on a command that did not reach its target stage. */
export function stopVerdict(facts: VerdictFacts): Stop {
  return facts.reason === null ? { headline: "Ended.", text: "No reason was kept." } : STOPS[facts.reason](facts);
}

/** The same for one that asked only what the channel is: whatever stopped it, nothing was switched. */
export function readVerdict(facts: VerdictFacts): Stop {
  const { device, attempts, online, reason, ignored } = facts;
  if (reason === "no-report" && ignored)
    return { headline: "No answer that counts.", text: `${ignored.text} ${ignored.tryThis}` };
  if (reason === "no-report")
    return {
      headline: "No answer.",
      text: `The broker has the state query, but the ${device} did not answer ${attempts} ${attempts === 1 ? "attempt" : "attempts"}. ${online ? `It is online. Check whether it supports state queries, and whether its user at the broker may read ${facts.topic}.` : advice(online)}`,
    };
  if (reason === "replaced-before-sending" || reason === "replaced-after-sending")
    return { headline: "Replaced.", text: "A newer state query replaced this one before the device answered." };
  if (reason === "never-sent-in-time" || reason === "sending-uncertain" || reason === "no-broker-receipt")
    return {
      headline: "Stopped before the broker.",
      text: "The broker never confirmed the state query. Check the link to the broker, then query again.",
    };
  if (reason === "nobody-listens")
    return {
      headline: "Nobody listens.",
      text: `The broker has no subscriber on ${facts.topic}. ${facts.online ? subscriptionWords(facts) : `${presenceWords(facts)}Check whether the device supports state queries, and compare its topic letter by letter.`}`,
    };
  return stopVerdict(facts);
}

const STOPS: Record<Reason, (facts: VerdictFacts) => Stop> = {
  "replaced-before-sending": () => ({
    headline: "Replaced before it was sent.",
    text: "A newer command for this channel came before this one was sent. Nothing was sent.",
  }),
  "replaced-after-sending": () => ({
    headline: "Replaced after it was sent.",
    text: "It was sent, then a newer command replaced it. It may have switched for a moment.",
  }),
  "never-sent-in-time": () => ({
    headline: "Stopped before the broker.",
    text: `It could not be sent before its time ran out, so nothing was switched. Check the link to the broker, then send again.`,
  }),
  "sending-uncertain": () => ({
    headline: "Stopped by a restart.",
    text: `The service stopped before it recorded the sending, and the time has run out. It may or may not have switched. Look at the channel, then send again.`,
  }),
  "no-broker-receipt": (facts) => ({
    headline: "Stopped at the broker.",
    text: `Sent ${times(facts)}, but the broker never confirmed receipt. It may or may not have switched. Check the broker.`,
  }),
  "no-acknowledgement": ({ device, attempts, online, said, ignored, stage }) => ({
    headline: "Stopped at the device.",
    text: ignored?.answered
      ? `${ignored.text} ${ignored.tryThis} It may or may not have switched.`
      : `${stage === "accepted" ? "It was sent without a receipt" : "The broker has the command"}, but the ${device} answered none of ${attempts} ${attempts === 1 ? "attempt" : "attempts"}${said === null ? "" : `: ${said}`}. ${ignored ? `${ignored.text} ${ignored.tryThis}` : advice(online)} It may or may not have switched.`,
  }),
  "no-report": ({ device, ignored }) => ({
    headline: "Stopped after the acknowledgement.",
    text: ignored
      ? `The ${device} acknowledged the command. ${ignored.text} ${ignored.tryThis}`
      : `The ${device} acknowledged the command but did not report the state. Nothing proves that it switched. Look at the channel.`,
  }),
  contradicted: ({ device, to }) => ({
    headline: "Acknowledged, then contradicted.",
    text: `The ${device} acknowledged the command but reports that the channel is not ${to}. Check for a hand at the switch, a welded contact or reversed polarity.`,
  }),
  "not-arrived": ({ device, to }) => ({
    headline: "Acknowledged, not arrived.",
    text: `The ${device} acknowledged the command and left its place, but was not seen to be ${to} in time. Look for something in its way. If it only needs longer, give it more time (settleMs).`,
  }),
  "device-refused": ({ device, code, said }) => ({
    headline: "Refused by the device.",
    text: `The ${device} answered no${code === null ? "" : ` (code ${code})`}${said === null ? "" : `: ${said}`}. It reports that it did not switch.${said === null ? " Look up the code in the device's manual." : ""}`,
  }),
  "nobody-listens": (facts) => ({
    headline: "Nobody listens.",
    text: `The broker has no subscriber on ${facts.topic}, ${effect(facts)}. ${subscriptionWords(facts)}`,
  }),
  "broker-refused": (facts) => ({
    headline: "Refused by the broker.",
    text: `The broker rejected the command${facts.code === null ? "" : ` (reason ${facts.code})`}, ${effect(facts)}. Check the service's permissions at the broker.`,
  }),
  "locked-out": (facts) => ({
    headline: "Stopped by a lock-out.",
    text: `Somebody locked the channel out before it was sent, ${facts.end === "failed" ? "so nothing was switched" : "though it may have been sent before a restart"}. Send again when the lock-out is released.`,
  }),
  interlocked: (facts) => ({
    headline: "Stopped by an interlock.",
    text: `Another channel that may not be on at the same time is not seen to be off, ${kept(facts)}. Switch that one off first, then send again.`,
  }),
  "interlock-unproven": (facts) => ({
    headline: "Stopped by an interlock.",
    text: `The channels that may not be on at the same time were switched off, but nothing proved that in time, ${kept(facts)}. Look at their last commands.`,
  }),
  "device-absent": ({ device }) => ({
    headline: "The device is offline.",
    text: `The ${device} was offline and takes no requests meanwhile, so nothing was sent. Check its power and its link.`,
  }),
  "nothing-to-start-from": () => ({
    headline: "The state is unknown.",
    text: "The state of the channel is unknown, so it cannot be changed relative to it. Nothing was sent. Request a state or a level.",
  }),
  "state-unknown": ({ device }) => ({
    headline: "Not sent. Its state is unknown.",
    text: `Each impulse changes this channel to the other state, and its state is unknown. Nothing was sent. Wait until the ${device} reports, switch it once by hand, or check the channel that measures it.`,
  }),
  "others-unknown": (facts) => ({
    headline: "Stopped. Other outputs are unknown.",
    text: `One message tells all outputs of the ${facts.device}, and the state of another output is unknown, ${kept(facts)}. Wait until the board reports, or ask it what it is. Then send again.`,
  }),
  midway: () => ({
    headline: "Not sent. It stands midway.",
    text: "It stands between open and shut, or moves, so one impulse more may as well reverse it. Nothing was sent. Wait until it has arrived, or move it to one end by hand.",
  }),
  removed: () => ({
    headline: "Stopped before sending.",
    text: "The channel was deleted from its site during this request. Nothing was sent.",
  }),
  restored: () => ({
    headline: "Ended by a restore.",
    text: "The database was restored from a backup that was made while this command was open. It may or may not have switched. Look at the channel.",
  }),
  "closed-by-person": ({ attempts, note }) => ({
    headline: "Cancelled by a person.",
    text: `${note === null ? "Somebody" : note} cancelled it before it was confirmed${attempts === 0 ? ", and before it was sent" : ""}. Look at the channel.`,
  }),
};

function times({ attempts }: VerdictFacts): string {
  return attempts === 1 ? "once" : `${attempts} times`;
}

function presenceWords({ online, device }: VerdictFacts): string {
  if (online === null) return "";
  return online ? `The ${device} is online. ` : `The ${device} is offline. `;
}

/** One that is online and not subscribed has asked for another topic, or the broker refused it. Whose user it has, nobody here knows. */
function subscriptionWords(facts: VerdictFacts): string {
  const { online, device, maySubscribe } = facts;
  if (!online) return `${presenceWords(facts)}Check its power, and its topic letter by letter.`;
  const known = maySubscribe.slice(0, MOST_FILTERS).join(" or ");
  const may =
    maySubscribe.length === 0 ? "" : ` A broker user made here may subscribe to ${known}, and to nothing else.`;
  return `The ${device} is online, so it subscribes to another topic, or the broker refused its subscription.${may} Compare its subscription letter by letter.`;
}

/** So many are named in a sentence. */
const MOST_FILTERS = 4;

function effect({ end }: VerdictFacts): string {
  return end === "failed" ? "so nothing was switched" : "though an earlier attempt may have switched it";
}

function kept({ end }: VerdictFacts): string {
  return end === "failed" ? "so nothing was sent" : "so it was not sent again";
}

function advice(online: boolean | null): string {
  if (online === false) return "It is offline: check its power and its link.";
  if (online) return "It is online, so its power and its link work. Look at the device itself, or restart it.";
  return "Check its power and its link.";
}
