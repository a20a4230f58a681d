/** Requests that are open, with their commands as they stand: answers are made from here without a query. */
import type { ChannelId, Command, RequestId } from "@bold-relay/core";
import type { CommandRecord, RequestRecord } from "../store/find-requests.ts";

export interface OpenRequest {
  readonly record: RequestRecord;
  /** As they stand, in the order in which they were made. */
  readonly commands: Command[];
}

/** The request's commands as they stand, in the shape in which ended ones are read from the journal. */
export function recordsOf({ record, commands }: OpenRequest): CommandRecord[] {
  return commands.map((command) => commandRecord(command, record));
}

export class OpenRequests {
  private readonly requests = new Map<RequestId, OpenRequest>();

  get size(): number {
    return this.requests.size;
  }

  /** Must come before the first event of the request's commands. */
  open(record: RequestRecord): OpenRequest {
    const known = this.requests.get(record.id);
    if (known) return known;
    const request: OpenRequest = { record, commands: [] };
    this.requests.set(record.id, request);
    return request;
  }

  /** The ids of every open request, or of those with a command for this channel. */
  idsOn(channel: ChannelId | null): RequestId[] {
    return this.idsFor((one) => channel === null || one === channel);
  }

  /** The ids of the open requests with a command for one of these channels. */
  openFor(channels: readonly ChannelId[]): RequestId[] {
    const wanted = new Set(channels);
    return this.idsFor((channel) => wanted.has(channel));
  }

  /** The ids of the open requests with a command for such a channel. */
  idsFor(isWanted: (channel: ChannelId) => boolean): RequestId[] {
    const open = [...this.requests.values()];
    const mine = open.filter(({ commands }) => commands.some(({ channel }) => isWanted(channel)));
    return mine.map(({ record }) => record.id);
  }

  /** Lets go of those with a command for a channel that another instance looks after now. */
  drop(isGone: (channel: ChannelId) => boolean): void {
    for (const id of this.idsFor(isGone)) this.requests.delete(id);
  }

  get(id: string): OpenRequest | null {
    return this.requests.get(id as RequestId) ?? null;
  }

  /**
   * Keeps the command as it is now, and lets the request go once all of its commands have ended.
   *
   * @returns the request, or null when it is not open
   */
  update(command: Command): OpenRequest | null {
    const request = this.requests.get(command.requestId);
    if (!request) return null;
    const { commands } = request;
    const place = commands.findIndex(({ id }) => id === command.id);
    if (place < 0) commands.push(command);
    else commands[place] = command;
    if (commands.every(hasEnded)) this.requests.delete(command.requestId);
    return request;
  }
}

function hasEnded({ end }: Command): boolean {
  return end !== null;
}

/** Made when somebody looks, not at every change: most changes nobody sees. */
export function commandRecord(command: Command, { requester, inlet, asker }: RequestRecord): CommandRecord {
  const { id, requestId, channel, seq, to, urgent, forMs, policy, stage, end, reason, attempts, askedAt, hops } =
    command;
  return {
    id,
    requestId,
    channelId: channel,
    seq,
    to,
    urgent,
    forMs,
    targetStage: policy.targetStage,
    stage,
    end,
    reason,
    attempts,
    askedAt,
    hops,
    requester,
    inlet,
    asker,
  };
}
