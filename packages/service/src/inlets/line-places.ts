/**
 * Places for typed sessions. Who has shown a key and who has not have places of their own, so that callers without one, from however many
 * addresses, keep nobody out who has one.
 */
import type { Socket } from "node:net";

/** Sessions with a key: of all keys, and of one. */
const MOST_WITH_KEY = 50;
const MOST_OF_KEY = 20;
/** Connections without one so far: of all addresses, and of one. */
const MOST_WITHOUT_KEY = 50;
const MOST_OF_ADDRESS = 20;

export class LinePlaces {
  /** Oldest first. */
  private readonly withoutKey = new Set<Socket>();
  /** The id of the key by session. */
  private readonly withKey = new Map<Socket, number>();

  /** Ends each connection. */
  clear(): void {
    for (const socket of [...this.withoutKey, ...this.withKey.keys()]) socket.destroy();
  }

  /**
   * Gives a new connection a place until it has shown a key. Where all are taken, the oldest of the address with most gives way: never one
   * with a key.
   *
   * @returns false where its address has enough already
   */
  enter(socket: Socket): boolean {
    if (this.of(socket.remoteAddress).length >= MOST_OF_ADDRESS) return false;
    if (this.withoutKey.size >= MOST_WITHOUT_KEY) this.crowdedOut()?.destroy();
    this.withoutKey.add(socket);
    socket.once("close", () => {
      this.withoutKey.delete(socket);
      this.withKey.delete(socket);
    });
    return true;
  }

  /** It has shown a key. @returns false where the key, or all keys, have as many sessions as there may be */
  signIn(socket: Socket, keyId: number): boolean {
    const ofKey = [...this.withKey.values()].filter((one) => one === keyId).length;
    if (ofKey >= MOST_OF_KEY || this.withKey.size >= MOST_WITH_KEY) return false;
    this.withoutKey.delete(socket);
    this.withKey.set(socket, keyId);
    return true;
  }

  private of(address: string | undefined): Socket[] {
    return [...this.withoutKey].filter(({ remoteAddress }) => remoteAddress === address);
  }

  private crowdedOut(): Socket | undefined {
    const byAddress = Map.groupBy(this.withoutKey, ({ remoteAddress }) => remoteAddress ?? "");
    const [most] = [...byAddress.values()].sort((one, other) => other.length - one.length);
    const oldest = most?.[0];
    if (oldest) this.withoutKey.delete(oldest);
    return oldest;
  }
}
