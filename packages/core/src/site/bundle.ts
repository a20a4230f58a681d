/** A group or a scene as it stands in a snapshot. */
import type { ChannelId } from "../id.ts";

/** A group or a scene: one name for several channels. */

export interface Bundle {
  readonly kind: "group" | "scene";
  readonly slug: string;
  readonly name: string;
  /** `site/slug`. */
  readonly address: string;
  readonly site: { readonly slug: string; readonly name: string };
  /** Of a group the action is null: it is what is asked. */
  readonly members: readonly {
    readonly channel: ChannelId;
    readonly action: string | null;
    readonly value: number | string | null;
  }[];
}
