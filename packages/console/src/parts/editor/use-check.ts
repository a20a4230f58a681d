/** A description is checked by the service as it is typed, once typing rests. */
import type { DescriptionCheckView } from "@bold-relay/api";
import { useEffect, useState } from "react";

/** How long typing rests before it is checked, ms. */
const REST_MS = 350;

export interface Checked {
  /** null: not checked so far. */
  readonly check: DescriptionCheckView | null;
  /** Why it could not be checked; null: it could. */
  readonly trouble: string | null;
  /** Whether the answer is about the text as it stands. */
  readonly isCurrent: boolean;
}

/**
 * @param draft as JSON, so that the same is not checked twice; null: it cannot be read
 * @param run asks the service
 */
export function useCheck(draft: string | null, run: (draft: object) => Promise<DescriptionCheckView>): Checked {
  const [answer, setAnswer] = useState<{
    draft: string;
    check: DescriptionCheckView | null;
    trouble: string | null;
  } | null>(null);
  useEffect(() => {
    if (draft === null) return;
    let stale = false;
    const tell = (check: DescriptionCheckView | null, trouble: string | null) => {
      if (!stale) setAnswer({ draft, check, trouble });
    };
    const timer = setTimeout(() => {
      run(JSON.parse(draft)).then(
        (check) => tell(check, null),
        (error: Error) => tell(null, error.message),
      );
    }, REST_MS);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [draft, run]);
  return {
    check: answer?.check ?? null,
    trouble: answer?.trouble ?? null,
    isCurrent: answer !== null && answer.draft === draft,
  };
}
