/** The way between pages: beside the page on a wide screen; on a phone one row at its lower edge, and the rest under More. */
import type { SessionView } from "@bold-relay/api";
import { useRef } from "react";
import { Link, useLocation, useRoute } from "wouter";
import { useBoard, useOpenAlerts } from "../api/board.ts";
import { useMay, useSignOut } from "../api/session.ts";
import { Button } from "./button.tsx";

interface Page {
  readonly to: string;
  readonly name: string;
  readonly current: boolean;
}

interface PageGroup {
  readonly title: string;
  readonly pages: readonly Page[];
}

/** @returns the pages that this member may open: the sites of the Board first, then the groups in the order of work */
function usePages(): { readonly sites: readonly Page[]; readonly groups: readonly PageGroup[] } {
  const { data: board } = useBoard();
  const [, match] = useRoute("/board/:site?/*?");
  const shown = match?.site;
  const [pathname] = useLocation();
  const [mayOperate, mayBuild] = [useMay("operate"), useMay("build")];
  const open = useOpenAlerts(mayOperate);
  const onBoard = pathname.startsWith("/board") || pathname.startsWith("/history");
  const first = shown ?? board?.sites[0]?.slug;
  const page = (to: string, name: string, also?: string): Page => ({
    to,
    name,
    current: pathname.startsWith(to) || (also !== undefined && pathname.startsWith(also)),
  });
  const sites = (board?.sites ?? []).map(({ slug, name }) => ({
    to: `/board/${slug}`,
    name,
    current: onBoard && slug === first,
  }));
  const operate = [
    page("/log", "Log"),
    page("/alerts", `Alerts${open > 0 ? ` ${open}` : ""}`),
    page("/statistics", "Statistics"),
    page("/map", "Map"),
  ];
  const setUp = [
    page("/devices", "Devices", "/sites"),
    page("/inlets", "Inlets"),
    page("/notifications", "Notifications"),
    page("/wire", "Wire"),
  ];
  return {
    sites,
    groups: [
      { title: "Operate", pages: mayOperate ? operate : [] },
      { title: "Set up", pages: mayBuild ? setUp : [] },
      { title: "Administer", pages: mayBuild ? [page("/access", "Access")] : [] },
    ],
  };
}

/** On a wide screen. */
export function SideNavigation() {
  const { sites, groups } = usePages();
  return (
    <nav aria-label="Pages" className="mt-6 flex flex-col">
      {groups.map(({ title, pages }, index) => (
        <NavigationGroup key={title} title={title} pages={index === 0 ? [...sites, ...pages] : pages} />
      ))}
    </nav>
  );
}

function NavigationGroup({ title, pages }: PageGroup) {
  if (pages.length === 0) return null;
  return (
    <div className="pb-4">
      <p className="px-4 pb-1 font-plate font-medium text-note text-soft">{title}</p>
      {pages.map((page) => (
        <PageLink key={page.to} page={page} />
      ))}
    </div>
  );
}

function PageLink({ page: { to, name, current }, onPress }: { page: Page; onPress?: () => void }) {
  const look = current
    ? "border-act font-semibold text-ink"
    : "border-transparent font-medium text-soft hover:text-act";
  return (
    <Link
      to={to}
      {...(onPress ? { onClick: onPress } : {})}
      aria-current={current ? "page" : undefined}
      className={`block border-l-[3px] py-1.5 pl-[13px] font-plate max-md:py-2.5 ${look}`}
    >
      {name}
    </Link>
  );
}

/** So many pages of the first group stand in the row beside the Board. */
const MOST_DAILY = 3;

/** On a phone: the pages of daily use in one row, within reach of a thumb. */
export function BottomBar({ session }: { session: SessionView }) {
  const { sites, groups } = usePages();
  const [operate, ...others] = groups;
  const daily = operate?.pages.slice(0, MOST_DAILY) ?? [];
  const seldom = { title: "Operate", pages: operate?.pages.slice(MOST_DAILY) ?? [] };
  const [site] = sites;
  const more = useRef<HTMLDivElement>(null);
  const close = () => more.current?.hidePopover();
  const board = site && { to: "/board", name: "Board", current: sites.some(({ current }) => current) };
  return (
    <nav
      aria-label="Pages"
      className="fixed inset-x-0 bottom-0 z-10 flex h-[52px] items-stretch border-rule border-t bg-sheet md:hidden print:hidden"
    >
      {[...(board ? [board] : []), ...daily].map((page) => (
        <Link
          key={page.to}
          to={page.to}
          aria-current={page.current ? "page" : undefined}
          className={`flex flex-1 items-center justify-center border-t-[3px] font-plate text-note ${
            page.current ? "border-act font-semibold text-ink" : "border-transparent font-medium text-soft"
          }`}
        >
          {page.name}
        </Link>
      ))}
      <button
        type="button"
        popoverTarget="more-pages"
        className="flex flex-1 items-center justify-center border-transparent border-t-[3px] font-medium font-plate text-note text-soft"
      >
        More
      </button>
      <div
        ref={more}
        id="more-pages"
        popover="auto"
        className="inset-x-0 top-auto bottom-[52px] m-0 max-h-[70dvh] w-full overflow-y-auto border-rule border-t bg-sheet pt-3 text-ink"
      >
        {[{ title: "Sites", pages: sites.length > 1 ? sites : [] }, seldom, ...others]
          .filter(({ pages }) => pages.length > 0)
          .map(({ title, pages }) => (
            <div key={title} className="pb-3">
              <p className="px-4 pb-1 font-plate font-medium text-note text-soft">{title}</p>
              {pages.map((page) => (
                <PageLink key={page.to} page={page} onPress={close} />
              ))}
            </div>
          ))}
        <AccountRow session={session} onPress={close} />
      </div>
    </nav>
  );
}

function AccountRow({ session, onPress }: { session: SessionView; onPress: () => void }) {
  const signOut = useSignOut();
  return (
    <p className="flex gap-6 border-rule border-t px-4 py-3 text-act">
      <Link to="/account" title="Account" onClick={onPress}>
        {session.name}
      </Link>
      <Button onClick={() => void signOut()}>Sign out</Button>
    </p>
  );
}
