/** What stands around every page: the sites, how the parts are, who is signed in. */
import type { PartStatus, SessionView } from "@bold-relay/api";
import { formatAgo, formatDuration } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, Suspense, useEffect, useRef } from "react";
import { Link, useLocation } from "wouter";
import { useStatus } from "../api/board.ts";
import { useSignOut } from "../api/session.ts";
import { ConnectionProvider, type LiveState } from "../live/connection.ts";
import { useLive } from "../live/use-live.ts";
import { useNow } from "../live/use-now.ts";
import { Button } from "./button.tsx";
import { BottomBar, SideNavigation } from "./navigation.tsx";
import { PageBoundary } from "./page-boundary.tsx";
import { ProductSign } from "./product-sign.tsx";
import { when } from "./time.ts";

export function Frame({ session, children }: { session: SessionView; children: ReactNode }) {
  const live = useLive();
  const signOut = useSignOut();
  useKeptOnThisDevice(session.name, live);
  const [pathname] = useLocation();
  return (
    <div className="flex min-h-dvh">
      <aside className="print:hidden sticky top-0 flex h-dvh w-[150px] shrink-0 flex-col overflow-y-auto border-rule border-r bg-sheet py-4 max-md:hidden">
        <div className="px-4">
          <ProductSign />
        </div>
        <SideNavigation />
        <div className="mt-auto">
          <PartList connected={live.connected} />
          <div className="border-rule border-t px-4 pt-3 text-note">
            <Link to="/account" title="Account" className="block truncate text-act underline-offset-2 hover:underline">
              {session.name}
            </Link>
            <p className="truncate text-soft">{session.role ?? "no role"}</p>
            <Button onClick={() => void signOut()} className="text-act underline-offset-2 hover:underline">
              Sign out
            </Button>
          </div>
        </div>
      </aside>
      <main className="min-w-0 flex-1 max-md:pb-[52px]">
        {live.connected ? <MissingBar /> : <LostBar since={live.since} />}
        <PageBoundary page={pathname}>
          <ConnectionProvider value={live}>
            <Suspense fallback={null}>{children}</Suspense>
          </ConnectionProvider>
        </PageBoundary>
      </main>
      <BottomBar session={session} />
    </div>
  );
}

/** Once the page stands: it is in nobody's way, and nothing else waits for it. */
function useKeptOnThisDevice(member: string, live: LiveState): void {
  const queries = useQueryClient();
  const current = useRef(live.connected);
  current.current = live.connected;
  useEffect(() => {
    const stop = new AbortController();
    const start = async () => {
      const { keepOnThisDevice } = await import("../live/on-this-device.ts");
      if (!stop.signal.aborted) keepOnThisDevice(queries, member, () => current.current, stop.signal);
    };
    const timer = setTimeout(() => void start().catch(() => {}), AFTER_MS);
    stop.signal.addEventListener("abort", () => clearTimeout(timer));
    return () => stop.abort();
  }, [queries, member]);
}

const AFTER_MS = 3_000;

function LostBar({ since }: { since: number }) {
  const now = useNow();
  return (
    <p role="alert" className="border-wrong border-l-[3px] bg-wrong-wash px-5 py-2 text-body">
      <strong className="font-semibold">No connection to the service.</strong> This page shows what was known at{" "}
      {when.clock(since)}
      {/* It changes all the time, and would be read out each time. */}
      <span aria-hidden="true">, {formatAgo(now - since)}</span>. Reconnecting.
    </p>
  );
}

function MissingBar() {
  const { data: status } = useStatus();
  if (!status || status.missing.length === 0) return null;
  return (
    <p role="alert" className="border-wrong border-l-[3px] bg-wrong-wash px-5 py-2 text-body">
      <strong className="font-semibold">
        No answer from the {status.missing.length === 1 ? "instance" : "instances"} {status.missing.join(", ")}.
      </strong>{" "}
      Counts and published commands from there are not shown. States there can be unknown.
    </p>
  );
}

function PartList({ connected }: { connected: boolean }) {
  const { data: status } = useStatus();
  if (!status) return null;
  return (
    <dl className="border-rule border-t px-4 py-3 text-note text-soft max-md:hidden">
      <Part name="Service" up={connected} detail={`, ${status.version}`} />
      <Part name="Broker" up={status.broker.up} detail={timeOf(status.broker)} />
      <Part name="Database" up={status.database.up} detail={timeOf(status.database)} />
    </dl>
  );
}

function Part({ name, up, detail }: { name: string; up: boolean; detail: string }) {
  return (
    <div className="flex justify-between gap-2">
      <dt>{name}</dt>
      <dd className={up ? "text-right" : "font-semibold text-right text-wrong"}>
        {up ? "up" : "down"}
        {up && detail}
      </dd>
    </div>
  );
}

function timeOf({ roundTripMs }: PartStatus): string {
  return roundTripMs === null ? "" : `, ${formatDuration(roundTripMs)}`;
}
