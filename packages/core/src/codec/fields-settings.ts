/** The settings of a device's own JSON. */
import type { Meaning } from "./meaning.ts";
import type { Scalar } from "./word-values.ts";

/** A JSON value with holes in its texts. */

export type Template = Scalar | null | readonly Template[] | { readonly [name: string]: Template };

/** Pointers may hold {index} and {channel}: "/relays/{index}/on". */
export interface FieldsSettings extends Meaning {
  readonly form: "fields";
  /** Holes {value}, {red}, {green}, {blue}, {index}, {channel}, {id}, {for}, {ramp}. Names go out in the order written. */
  readonly do: Template;
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
    readonly index?: string;
    readonly channel?: string;
    readonly id?: string;
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
    readonly id?: string;
  };
  /** Without `value` the whole payload is compared, as a bare word. */
  readonly here?: { readonly value?: string; readonly up: Scalar; readonly down: Scalar; readonly boot?: string };
}
