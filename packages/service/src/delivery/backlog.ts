/**
 * What was learnt and could not be handed to the database's writer, because its queue is full: kept until there is room. Bounded
 * by what there is: of a command its newest form, of a channel its newest change.
 */
import type { Command, CommandId } from "@bold-relay/core";
import type { SettleRow } from "../store/settle-commands.ts";

type Change = Extract<SettleRow, { change: unknown }>["change"];

export class Backlog {
  private readonly commands = new Map<CommandId, Command>();
  private readonly changes = new Map<number, Change>();

  get size(): number {
    return this.commands.size + this.changes.size;
  }

  addCommand(command: Command): void {
    this.commands.set(command.id, command);
  }

  /** What the channel was before the first change that is left out stays on record. */
  addChange(change: Change): void {
    const known = this.changes.get(change.channelId);
    this.changes.set(change.channelId, known ? { ...change, from: known.from } : change);
  }

  /** Takes out one row to be written, commands first; null when nothing is left. */
  take(): SettleRow | null {
    for (const [id, command] of this.commands) {
      this.commands.delete(id);
      return { command };
    }
    for (const [channel, change] of this.changes) {
      this.changes.delete(channel);
      return { change };
    }
    return null;
  }
}
