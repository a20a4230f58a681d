/** The settings of a device's own JSON. */
import type { Meaning } from "./meaning.ts";
import type { TextForm } from "./text-form.ts";
import type { Scalar } from "./word-values.ts";

/** A JSON value with holes in its texts. */

export type Template = Scalar | null | readonly Template[] | { readonly [name: string]: Template };

/** Pointers may hold {index}, {channel} and {node}: "/relays/{index}/on". */
export interface FieldsSettings extends Meaning, Pick<TextForm, "times"> {
  readonly form: "fields";
  /**
   * Holes as in the form `text`. Names go out in the order written, but for such as are numbers: those come first. Left out for what is
   * only looked at.
   */
  readonly do?: Template;
  /** What is told where the device times itself and a time was asked for. Default: `do`. */
  readonly doFor?: Template;
  /** What asks what it is. Holes {index}, {channel}, {id}. Default {}. */
  readonly ask?: Template;
  readonly is?: {
    readonly value?: string;
    /** A colour that comes in three numbers. */
    readonly red?: string;
    readonly green?: string;
    readonly blue?: string;
    /** The same as hue, saturation and brightness. */
    readonly hue?: string;
    readonly saturation?: string;
    readonly brightness?: string;
    readonly index?: string;
    readonly channel?: string;
    readonly node?: string;
    readonly id?: string;
    /** Where the short number of a command comes back. */
    readonly number?: string;
    /** What must stand where: a message with anything else there is about another channel. Texts may hold {index}, {channel}, {node}. */
    readonly match?: Readonly<Record<string, Scalar>>;
    /** Where it says what made it so, and what it calls each cause. */
    readonly by?: string;
    readonly causes?: Partial<Record<"command" | "hand" | "timer" | "boot", readonly Scalar[]>>;
  };
  readonly done?: {
    /** Where it says yes or no. Left out: that it answers is a yes. */
    readonly result?: string;
    /** Default true, ok, done, yes, 1. */
    readonly ok?: readonly Scalar[];
    /** Default false, no, error, refused. */
    readonly no?: readonly Scalar[];
    readonly index?: string;
    readonly channel?: string;
    readonly node?: string;
    readonly id?: string;
    readonly number?: string;
    readonly match?: Readonly<Record<string, Scalar>>;
  };
  /** Without `value` the whole payload is compared, as a bare word. */
  readonly here?: { readonly value?: string; readonly up: Scalar; readonly down: Scalar; readonly boot?: string };
}
