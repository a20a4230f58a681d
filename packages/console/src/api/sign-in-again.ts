/** A call that needs a recent sign-in waits here until its member has signed in again, or has given up. */
import { useSyncExternalStore } from "react";
import { operate } from "./operate.ts";

type Outcome = "signed in" | "cancelled";

interface Waiting {
  readonly ended: Promise<Outcome>;
  end(outcome: Outcome): void;
}

let waiting: Waiting | null = null;
const listeners = new Set<() => void>();

/** For `ClientOptions.signInAgain`: the browser sends the new cookie by itself. Calls that come meanwhile wait for the same sign-in. */
export async function signInAgain(): Promise<Record<string, string> | null> {
  if (waiting === null) {
    let end: Waiting["end"] = () => {};
    const ended = new Promise<Outcome>((resolve) => {
      end = resolve;
    });
    show({ ended, end });
  }
  return (await waiting?.ended) === "signed in" ? {} : null;
}

/** Before a file is downloaded, which tells a page nothing of a refusal. @returns whether the download may begin */
export async function ensureRecent(): Promise<boolean> {
  return (await operate.session()).recent || (await signInAgain()) !== null;
}

/** Whether somebody is asked to sign in again. */
export function useIsAsked(): boolean {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => waiting !== null,
  );
}

export function endSignInAgain(outcome: Outcome): void {
  waiting?.end(outcome);
  show(null);
}

function show(next: Waiting | null): void {
  waiting = next;
  for (const listener of listeners) listener();
}
