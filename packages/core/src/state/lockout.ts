/** Lock-out: a named person's hold on a channel ("hands in the panel"). While it stands, every command is refused. */
export interface Lockout {
  readonly id: string;
  /** Who holds it; named in every refusal and on every screen. */
  readonly holder: string;
  /** The member who holds it: somebody else of the same name does not. null: of before members were told apart. */
  readonly holderId: number | null;
  readonly reason: string | null;
  /** Every channel of the device is held, not this one alone. */
  readonly wholeDevice: boolean;
  /** ms since 1970. */
  readonly since: number;
}
