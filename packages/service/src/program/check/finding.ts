/** What `check` finds, and how it is shown. */

export interface Finding {
  /** What was looked at: a noun. */
  readonly what: string;
  readonly state: "ok" | "warning" | "error";
  readonly text: string;
  /** What to do; left out where nothing is wrong. */
  readonly mend?: string;
}

export const ok = (what: string, text: string): Finding => ({ what, state: "ok", text });
export const warning = (what: string, text: string, mend: string): Finding => ({ what, state: "warning", text, mend });
export const failure = (what: string, text: string, mend: string): Finding => ({ what, state: "error", text, mend });

/** @returns one line for each finding, what to do below it, and a sum */
export function findingLines(findings: readonly Finding[]): string[] {
  const width = Math.max(...findings.map(({ what }) => what.length)) + 2;
  const lines = findings.flatMap(({ what, state, text, mend }) => [
    `${state.padEnd(9)}${what.padEnd(width)}${text}`,
    ...(mend === undefined ? [] : [`${" ".repeat(9 + width)}${mend}`]),
  ]);
  const count = (state: Finding["state"]) => findings.filter((one) => one.state === state).length;
  const [errors, warnings] = [count("error"), count("warning")];
  return [...lines, "", errors + warnings === 0 ? "No problems found." : `Errors: ${errors}. Warnings: ${warnings}.`];
}
