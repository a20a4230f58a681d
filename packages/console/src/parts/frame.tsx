/** What stands around every page: the sites, how the parts are, who is signed in. */
import type { PartStatus, SessionView } from "@bold-relay/api";
import { formatDuration } from "@bold-relay/core";
import { Button } from "@headlessui/react";
import { Link, Outlet } from "react-router";
import { useSignOut, useStatus } from "../api/queries.ts";
import { useLive } from "../live/use-live.ts";
import { BottomBar, SideNavigation } from "./navigation.tsx";
import { ProductSign } from "./product-sign.tsx";
import { when } from "./time.ts";

export function Frame({ session }: { session: SessionView }) {
  const live = useLive();
  const signOut = useSignOut();
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
        {!live.connected && <LostBar since={live.since} />}
        <Outlet />
      </main>
      <BottomBar session={session} />
    </div>
  );
}

function LostBar({ since }: { since: number }) {
  return (
    <p role="alert" className="border-wrong border-l-[3px] bg-wrong-wash px-5 py-2 text-body">
      <strong className="font-semibold">No connection to the service.</strong> This page shows the state of{" "}
      {when.clock(since)}. Reconnecting.
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
