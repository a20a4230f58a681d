/** How a device writes numbers as text: in which base, with how many digits, signed or not. Pure. */
import type { Scalar } from "./word-values.ts";

export interface NumberForm {
  /** 16: in hexadecimal digits, without a prefix. Default 10. */
  readonly base?: 10 | 16 | undefined;
  /** Filled up with zeros to so many digits, 1 to 16. */
  readonly digits?: number | undefined;
  /** 12,5 instead of 12.5. Default false. */
  readonly comma?: boolean | undefined;
  /** Numbers below zero are written as two's complement of so many bits. Default: with a minus sign. */
  readonly signedBits?: 8 | 16 | 32 | undefined;
}

/** @example numberText(10, { base: 16, digits: 2 }) // → "0a" */
export function numberText(number: number, form: NumberForm): Scalar {
  const { base = 10, digits, comma = false, signedBits } = form;
  if (base === 10 && digits === undefined && !comma && signedBits === undefined) return number;
  const wrapped = signedBits !== undefined && number < 0 ? number + 2 ** signedBits : number;
  const plain = Math.abs(wrapped).toString(base);
  const [whole = "", ...rest] = plain.split(".");
  const padded = [whole.padStart(digits ?? 0, "0"), ...rest].join(comma ? "," : ".");
  return wrapped < 0 ? `-${padded}` : padded;
}

/**
 * Nothing but the number: no exponent, no prefix, nothing after it. Minus zero is zero.
 *
 * @returns null when it is none in this form
 * @example readNumberText("0a", { base: 16 }) // → 10
 */
export function readNumberText(raw: Scalar, form: NumberForm): number | null {
  const number = plainNumber(raw, form);
  if (number === null || form.signedBits === undefined) return number;
  const span = 2 ** form.signedBits;
  if (number >= span) return null;
  return number >= span / 2 ? number - span : number;
}

function plainNumber(raw: Scalar, { base = 10, comma = false }: NumberForm): number | null {
  if (typeof raw === "number") return Number.isFinite(raw) ? raw + 0 : null;
  if (typeof raw !== "string") return null;
  const text = raw.trim();
  if (base === 16) return /^[0-9a-f]{1,8}$/i.test(text) ? Number.parseInt(text, 16) : null;
  const form = comma ? /^[-+]?\d{1,9}(?:,\d{1,6})?$/ : /^[-+]?\d{1,9}(?:\.\d{1,6})?$/;
  return form.test(text) ? Number(text.replace(",", ".")) + 0 : null;
}
