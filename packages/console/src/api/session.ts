/** Who is signed in and what they may do. */
import { ProblemError, type SessionView, UnreachableError } from "@bold-relay/api";
import { type Right, type Role, sitesWith } from "@bold-relay/core";
import { queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { forgetLastBoard } from "../live/last-board-store.ts";
import { names, operate } from "./operate.ts";

/** How often a service that does not answer is asked again, ms. */
const ASK_AGAIN_MS = 5_000;

export interface Session {
  readonly isPending: boolean;
  /** The member who is signed in; null when nobody is. */
  readonly data: SessionView | null;
  /** The service did not answer: nobody knows who is signed in. It is asked again and again. */
  readonly unreachable: boolean;
  /** Why the service could not say who is signed in. */
  readonly trouble: string | null;
}

/** Whether somebody is signed in is found out once; a service that does not answer is asked again. */
export const sessionQuery = queryOptions<SessionView | null>({
  queryKey: names.session,
  retry: false,
  refetchInterval: ({ state }) => (state.error ? ASK_AGAIN_MS : false),
  queryFn: async () => {
    try {
      return await operate.session();
    } catch (error) {
      if (!(error instanceof ProblemError && error.problem.code === "not-signed-in")) throw error;
      // Signed out elsewhere, revoked or expired: what was kept for this member goes with the session.
      void forgetLastBoard().catch(() => {});
      return null;
    }
  },
});

export function useSession(): Session {
  const { data, isPending, error } = useQuery(sessionQuery);
  // The same object as long as it says the same: it is handed on deferred.
  return useMemo(() => {
    const unreachable = error instanceof UnreachableError;
    return { isPending, data: data ?? null, unreachable, trouble: error?.message ?? null };
  }, [isPending, data, error]);
}

/** The id of who is signed in. */
export function useMemberId(): number | null {
  return useSession().data?.id ?? null;
}

/** Who is signed in, for pages that only exist when somebody is. */
export function useMemberName(): string | null {
  return useSession().data?.name ?? null;
}

/**
 * Whether the member has a right.
 *
 * @param site at this one; left out: anywhere
 */
export function useMay(right: Right, site?: string): boolean {
  const { data: session } = useSession();
  if (!session) return false;
  const { role, sites } = session;
  const standing = { team: sites === null ? role : null, sites: sitesOf(session) };
  const where = sitesWith(standing, right);
  return site === undefined ? where?.length !== 0 : where === null || where.includes(site);
}

function sitesOf({ sites }: SessionView): Record<string, Role> {
  return Object.fromEntries((sites ?? []).map((one) => [one.site, one.role]));
}

/** Signs out, here and at the service. */
export function useSignOut(): () => Promise<void> {
  const queries = useQueryClient();
  return async () => {
    await operate.signOut().catch(() => {
      // Without an answer the session may live on at the service until it expires; here it is over.
    });
    queries.setQueryData(names.session, null);
    await forgetLastBoard().catch(() => {});
    // Nothing that was read under this session is left for the next one.
    queries.removeQueries({ predicate: ({ queryKey }) => queryKey[0] !== names.session[0] });
  };
}
