/** What stands around every page: the sites, how the parts are, who is signed in. */
import type { PartStatus, SessionView } from "@bold-relay/api";
import { formatDuration } from "@bold-relay/core";
import { Button } from "@headlessui/react";
import { Link, Outlet, useLocation, useParams } from "react-router";
import { useBoard, useMay, useOpenMatters, useSignOut, useStatus } from "../api/queries.ts";
import { useLive } from "../live/use-live.ts";
import { ProductSign } from "./product-sign.tsx";

export function Frame({ session }: { session: SessionView }) {
  const live = useLive();
  const { data: board } = useBoard();
  const { site: shown } = useParams();
  const { pathname } = useLocation();
  const onBoard = pathname.startsWith("/board") || pathname.startsWith("/day");
  const [mayOperate, mayBuild] = [useMay("operate"), useMay("build")];
  const open = useOpenMatters(mayOperate);
  const signOut = useSignOut();
  const current = shown ?? board?.sites[0]?.slug;
  return (
    <div className="flex min-h-dvh max-md:flex-col">
      <aside className="print:hidden sticky top-0 flex h-dvh w-[150px] shrink-0 flex-col border-rule border-r bg-sheet py-4 max-md:static max-md:h-auto max-md:w-auto max-md:flex-row max-md:flex-wrap max-md:items-center max-md:border-r-0 max-md:border-b max-md:py-2">
        <div className="px-4 max-md:px-3">
          <ProductSign />
        </div>
        <nav aria-label="Pages" className="mt-6 flex flex-col max-md:mt-0 max-md:flex-row max-md:flex-wrap">
          <p className="px-4 pb-1 font-plate font-medium text-note text-soft max-md:hidden">Board</p>
          {board?.sites.map(({ slug, name }) => (
            <PageLink key={slug} to={`/board/${slug}`} name={name} current={onBoard && slug === current} />
          ))}
          {mayOperate && (
            <>
              <p className="px-4 pt-4 pb-1 font-plate font-medium text-note text-soft max-md:hidden">Journal</p>
              <PageLink
                to="/attention"
                name={`Attention${open > 0 ? ` ${open}` : ""}`}
                current={pathname.startsWith("/attention")}
              />
              <PageLink to="/deliveries" name="Deliveries" current={pathname.startsWith("/deliveries")} />
              <PageLink to="/figures" name="Figures" current={pathname.startsWith("/figures")} />
            </>
          )}
          {mayBuild && (
            <>
              <p className="px-4 pt-4 pb-1 font-plate font-medium text-note text-soft max-md:hidden">Field</p>
              <PageLink to="/inlets" name="Inlets" current={pathname.startsWith("/inlets")} />
              <PageLink to="/notices" name="Notices" current={pathname.startsWith("/notices")} />
              <PageLink to="/devices" name="Devices" current={pathname.startsWith("/devices")} />
              <PageLink to="/wire" name="Wire" current={pathname.startsWith("/wire")} />
              <p className="px-4 pt-4 pb-1 font-plate font-medium text-note text-soft max-md:hidden">Rights</p>
              <PageLink to="/team" name="Team" current={pathname.startsWith("/team")} />
            </>
          )}
        </nav>
        <div className="mt-auto max-md:mt-0 max-md:ml-auto">
          <PartList connected={live.connected} />
          <div className="border-rule border-t px-4 pt-3 text-note max-md:border-t-0 max-md:px-3 max-md:pt-0">
            <Link
              to="/account"
              title="Account"
              className="block truncate text-act underline-offset-2 hover:underline max-md:inline max-md:pr-3"
            >
              {session.name}
            </Link>
            <p className="truncate text-soft max-md:hidden">{session.role ?? "no role"}</p>
            <Button onClick={() => void signOut()} className="text-act underline-offset-2 hover:underline">
              Sign out
            </Button>
          </div>
        </div>
      </aside>
      <main className="min-w-0 flex-1">
        {!live.connected && <LostBar since={live.since} />}
        <Outlet />
      </main>
    </div>
  );
}

function PageLink({ to, name, current }: { to: string; name: string; current: boolean }) {
  const look = current
    ? "border-act font-semibold text-ink"
    : "border-transparent font-medium text-soft hover:text-act";
  return (
    <Link
      to={to}
      aria-current={current ? "page" : undefined}
      className={`border-l-[3px] py-1.5 pl-[13px] font-plate max-md:border-b-[3px] max-md:border-l-0 max-md:px-2.5 ${look}`}
    >
      {name}
    </Link>
  );
}

function LostBar({ since }: { since: number }) {
  return (
    <p role="alert" className="border-wrong border-l-[3px] bg-wrong-wash px-5 py-2 text-body">
      <strong className="font-semibold">No connection to the service.</strong> What you see was true at{" "}
      {new Date(since).toLocaleTimeString()}. Connecting again.
    </p>
  );
}

function PartList({ connected }: { connected: boolean }) {
  const { data: status } = useStatus();
  if (!status) return null;
  return (
    <dl className="border-rule border-t px-4 py-3 text-note text-soft max-md:hidden">
      <Part name="Service" up={connected} detail="" />
      <Part name="Broker" up={status.broker.up} detail={timeOf(status.broker)} />
      <Part name="Journal" up={status.journal.up} detail={timeOf(status.journal)} />
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
