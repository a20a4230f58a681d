/**
 * What keeps a link between two instances theirs. Each side names a number that is used once, and the key of the link is made of both and
 * of the secret of the installation. Each frame goes with a mark of its text, its sender and its place in the order: nobody on the way
 * can alter a frame, repeat it, leave one out, or send it back to where it came from.
 */
import { createHmac, timingSafeEqual } from "node:crypto";

/** Who opened the link, and who took it. */
export type LinkSide = "caller" | "answerer";

/** Characters of a SHA-256 in base64url (RFC 4648, 5). */
const MARK_LENGTH = 43;

/** The frames of one side: made by that side with `seal`, read by the other one with `open`. */
export class LinkSeal {
  private readonly key: Buffer;
  private readonly from: LinkSide;
  private turn = 0;

  constructor(key: Buffer, from: LinkSide) {
    this.key = key;
    this.from = from;
  }

  /** @returns the next frame */
  seal(text: string): string {
    return this.mark(text) + text;
  }

  /** @returns the text of the next frame; null: it is not what the other side has sealed next */
  open(frame: Buffer): string | null {
    const [shown, text] = [frame.subarray(0, MARK_LENGTH), frame.subarray(MARK_LENGTH)];
    const wanted = Buffer.from(this.mark(text));
    return shown.length === wanted.length && timingSafeEqual(shown, wanted) ? text.toString("utf8") : null;
  }

  private mark(text: string | Buffer): string {
    const place = `${this.from}.${this.turn}.`;
    this.turn += 1;
    return createHmac("sha256", this.key).update(place).update(text).digest("base64url");
  }
}
