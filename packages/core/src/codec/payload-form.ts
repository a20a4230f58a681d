/** How a profile describes payloads. */
import type { BytesSettings } from "./bytes.ts";
import type { FieldsSettings } from "./fields-settings.ts";
import type { TextSettings } from "./text.ts";

/** How a profile says what its payloads look like: a form that needs no settings by its name, or a form with them. */
export type PayloadForm = "json" | "word" | TextSettings | FieldsSettings | BytesSettings | ApartSettings;

export interface ApartSettings {
  readonly form: "apart";
  /** What is written, and what asks. */
  readonly do: PlainForm;
  /** How acknowledgements are read. Default: as `do`. */
  readonly done?: PlainForm;
  /** How reports are read. Default: as `do`. */
  readonly is?: PlainForm;
  /** How presence is read. Default: as `is`. */
  readonly here?: PlainForm;
}

/** A form that is not put together of others. */
export type PlainForm = Exclude<PayloadForm, ApartSettings>;

/** The names of these, each with its settings: what `index.ts` must have a codec for. */
export type SettingsByForm = {
  readonly [Name in Extract<PlainForm, string>]: { readonly form: Name };
} & { readonly [Settings in Exclude<PlainForm, string> as Settings["form"]]: Settings };
