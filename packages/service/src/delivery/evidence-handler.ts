/**
 * What devices say, in one line: a message is read, becomes evidence for a command, then the state of a channel, and is told.
 * Whatever proves nothing is kept in the story of the commands that are open meanwhile.
 */
import {
  answersByTurns,
  type ChannelEntry,
  type ChannelId,
  covers,
  type DeviceMessage,
  type IgnoredWhy,
  kindOf,
  type MessageRead,
  type Presence,
  payloadText,
  printable,
  type RawMessage,
  type Remark,
  readDeviceMessage,
  type TopicUse,
  useOf,
} from "@bold-relay/core";
import { failHere } from "../platform/failpoint.ts";
import type { PresenceLog } from "../state/presence-log.ts";
import { ForeignCommands, type ForeignCommandsDeps } from "./foreign-commands.ts";
import { OddMessages, type OddMessagesDeps } from "./odd-messages.ts";
import { type MessageAge, ReportHandler, type ReportHandlerDeps } from "./report-handler.ts";
import type { SilentDevices } from "./silent-devices.ts";

export type EvidenceHandlerDeps = ReportHandlerDeps &
  ForeignCommandsDeps &
  OddMessagesDeps & {
    readonly presences: PresenceLog;
    readonly silentDevices: SilentDevices;
    /** Those that the link is for. */
    readonly channels: () => readonly ChannelEntry[];
    /** Whether the link is for what has this topic. */
    readonly isFor: (use: TopicUse) => boolean;
  };

export class EvidenceHandler {
  private readonly deps: EvidenceHandlerDeps;
  private readonly foreign: ForeignCommands;
  private readonly reports: ReportHandler;
  private readonly odd: OddMessages;

  constructor(deps: EvidenceHandlerDeps) {
    this.deps = deps;
    this.foreign = new ForeignCommands(deps);
    this.reports = new ReportHandler(deps, this.foreign);
    this.odd = new OddMessages(deps);
  }

  /** A message came in on a topic of ours. Never throws: whatever a device sends must not hurt another's command. */
  receive(topic: string, payload: Uint8Array, age: MessageAge, correlation: string | null = null): void {
    const use = useOf(this.deps.board.snapshot, topic);
    if (!use) return this.odd.note(topic, "no channel has this topic");
    if (!this.deps.isFor(use)) return;
    const message = readDeviceMessage(use, payload, topic, correlation);
    if (message !== null) this.take(message, age, { topic, payload: payloadText(payload) });
  }

  /** The link is gone: what devices said before may have changed unheard. */
  linkLost(): void {
    const { board, feed, inputs, presences, silentDevices } = this.deps;
    silentDevices.linkLost();
    const channels = this.deps.channels();
    inputs.lose(channels);
    for (const { id, device } of channels) {
      board.unhear(id);
      presences.forget(device.address);
      // What lies on command topics is looked at anew when the link is back.
      board.dropConcern(id, "retained-command");
      feed.channelChanged(id);
    }
  }

  private take(message: DeviceMessage, age: MessageAge, wire: RawMessage): void {
    const { live } = age;
    switch (message.says) {
      case "presence":
        return this.takePresence(message.device, message.presence, live, wire);
      case "evidence":
        return this.takeEvidence(message, age, wire);
      case "command":
        for (const channel of message.channels) this.foreign.receive(channel, wire.topic, live);
        return;
      case "nothing":
        this.odd.note(wire.topic, message.why);
        for (const channel of message.channels) this.ignore(channel, "garbled", null, wire, "it names no channel");
    }
  }

  private takeEvidence(
    { byTurns, about }: Extract<DeviceMessage, { says: "evidence" }>,
    age: MessageAge,
    wire: RawMessage,
  ): void {
    const [meant] = about;
    const garbled = meant?.message.garbled ?? null;
    if (garbled !== null) this.odd.note(wire.topic, garbled);
    // Before anything is taken: what counts for a command may end it.
    else if (age.live && !byTurns && !about.some(({ channel }) => this.isWaiting(channel)))
      this.ignoreForOthers(
        about.map(({ channel }) => channel),
        wire,
        meant?.message.answer ? "acknowledgement" : "report",
      );
    if (age.live && !age.waited)
      this.takeSignOfLife(about.flatMap(({ channel, message }) => (isOfDevice(message) ? channel.device.address : [])));
    for (const { channel, message } of about) this.takeOf(channel, message, age, wire);
  }

  /** Who speaks is there: a will of an old session may come late. What it said of its channels stays its word. */
  private takeSignOfLife(devices: readonly string[]): void {
    const { board, feed, clock, silentDevices } = this.deps;
    for (const device of new Set(devices)) {
      silentDevices.heard(device);
      const known = board.presenceOf(device);
      if (known === null ? !silentDevices.watches(device) : known.up) continue;
      board.setPresence(device, { up: true, boot: known?.boot ?? null, since: clock.now() });
      for (const { id } of board.channelsOf(device)) feed.channelChanged(id);
    }
  }

  private takeOf(
    channel: ChannelEntry,
    { answer, report, garbled, unattributed }: MessageRead,
    age: MessageAge,
    wire: RawMessage,
  ): void {
    const { live } = age;
    if (garbled !== null) {
      const isReport = channel.topics.is !== null && covers(channel.topics.is, wire.topic);
      if (isReport && !unattributed) this.reports.takeUnreadable(channel, wire, garbled);
      return this.ignore(channel, "garbled", isReport ? "report" : "acknowledgement", wire, garbled);
    }
    if (answer && live) {
      failHere("on-acknowledgement");
      this.takeAnswer(channel, answer, wire);
    }
    // A retained acknowledgement is old news by definition.
    if (answer && !live) {
      this.odd.note(wire.topic, "a retained acknowledgement");
      this.ignore(channel, "retained", "acknowledgement", wire);
    }
    if (report === null) return;
    if (live) failHere("on-report");
    this.reports.take(channel, report, age, wire);
  }

  private takeAnswer(channel: ChannelEntry, answer: NonNullable<MessageRead["answer"]>, wire: RawMessage): void {
    const { ok, code, why, number } = answer;
    const id = number === undefined ? answer.id : this.reports.commandOf(channel, number);
    const event = { type: "done", id, ok, code, why, wire } as const;
    const lanes = this.deps.lanes;
    if (answersByTurns(channel)) lanes.dispatchDone(this.siblingsOf(channel), event);
    else lanes.dispatch(channel.id, event);
  }

  private takePresence(device: string, presence: Presence, live: boolean, wire: RawMessage): void {
    const { board, feed, inputs, clock, presences } = this.deps;
    const now = clock.now();
    const channels = board.channelsOf(device);
    const before = board.presenceOf(device);
    const poweredUp = presence.up && this.deps.powerUps.deviceUp(channels, presence.boot);
    if (live) presences.add(device, { ...presence, at: now });
    if (!board.setPresence(device, { ...presence, since: now })) return;
    inputs.lose(channels);
    const why: IgnoredWhy = !presence.up ? "went" : poweredUp ? "restarted" : "came";
    for (const channel of channels) {
      // What a device said of itself first, after our start, takes nothing back of what it said of its channels.
      if (before !== null || !presence.up || poweredUp) board.unhear(channel.id);
      if (live && before !== null) this.ignore(channel, why, "presence", wire);
      feed.channelChanged(channel.id);
    }
  }

  /** Whether a command of the channel is open, so that what is said of it is for that. */
  private isWaiting({ id }: ChannelEntry): boolean {
    return this.deps.lanes.openOf(id) !== null;
  }

  private siblingsOf(channel: ChannelEntry): ChannelId[] {
    return this.deps.board.channelsOf(channel.device.address).map(({ id }) => id);
  }

  /** Into the story of the channel's open commands. */
  private ignore(
    channel: ChannelEntry,
    why: IgnoredWhy,
    takenFor: Remark["takenFor"],
    wire: RawMessage,
    detail?: string,
  ): void {
    const remark: Remark = detail === undefined ? { takenFor, why } : { takenFor, why, detail: printable(detail, 200) };
    this.deps.lanes.dispatch(channel.id, { type: "ignore", channel: channel.id, remark, wire });
  }

  /** A word on channels of which no command is open may be the answer that another one of the device waits for. */
  private ignoreForOthers(
    about: readonly ChannelEntry[],
    wire: RawMessage,
    takenFor: "acknowledgement" | "report",
  ): void {
    const [first] = about;
    if (!first || about.every(({ kind }) => kindOf(kind).input)) return;
    for (const sibling of this.deps.board.channelsOf(first.device.address)) {
      if (about.includes(sibling) || !this.isWaiting(sibling)) continue;
      this.ignore(sibling, "other-channel", takenFor, wire, `${first.name}, ${first.room.name}`);
    }
  }
}

/** Whether the device itself speaks: that a command was passed on is the word of whoever translates for it. */
function isOfDevice({ answer, report }: MessageRead): boolean {
  return report !== null || answer?.ok !== null;
}
