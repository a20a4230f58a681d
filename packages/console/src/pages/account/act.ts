/** Carries something out, and says what went wrong; resolves to whether it worked. */
export type Act = (work: Promise<unknown>) => Promise<boolean>;
