/** The Board: laid out like the schedule of circuits inside a distribution board's door. */

import type { ChannelView, SiteView } from "@bold-relay/api";
import { formatAgo, presenceWords } from "@bold-relay/core";
import { Suspense, useMemo } from "react";
import { Link, useLocation, useParams } from "wouter";
import { useBoard } from "../../api/board.ts";
import { useMay } from "../../api/session.ts";
import { asLastHeard } from "../../live/board-cache.ts";
import { useConnection } from "../../live/connection.ts";
import { useNow } from "../../live/use-now.ts";
import { TracePanel } from "../../pages.ts";
import { useGrowing } from "../../parts/use-growing.ts";
import { isKnownNow } from "../../parts/words.ts";
import { BundleRows } from "./bundle-rows.tsx";
import { ChannelRow, whoAsked } from "./channel-row.tsx";

export function BoardPage() {
  const { site: slug, request } = useParams();
  const { data: read, error } = useBoard();
  const connection = useConnection();
  const board = useMemo(
    () => (read && !connection.connected ? asLastHeard(read, connection.since) : read),
    [read, connection],
  );
  const [, navigate] = useLocation();
  const now = useNow();
  if (error && !board) return <Note title="The board cannot be read">{error.message}</Note>;
  if (!board) return null;
  const site = slug === undefined ? board.sites[0] : board.sites.find((one) => one.slug === slug);
  if (!site) return slug === undefined ? <NoSites /> : <NoSuchSite slug={slug} />;
  return (
    <div className="flex">
      <div className="flex min-w-0 flex-1 flex-col px-5 pt-5 pb-10 max-[820px]:px-2 max-md:px-3 max-md:pt-3">
        <Heading site={site} />
        {site.channels.length === 0 && <NoChannels />}
        <BundleRows site={site} />
        <Schedule site={site} traced={request} now={now} />
      </div>
      {request && (
        // Of its own: the Board stays while the panel is fetched.
        <Suspense fallback={null}>
          <TracePanel
            key={request}
            request={request}
            pathOf={(id) => `/board/${site.slug}/trace/${id}`}
            onClose={() => navigate(`/board/${site.slug}`)}
          />
        </Suspense>
      )}
    </div>
  );
}

function Heading({ site }: { site: SiteView }) {
  const { channels } = site;
  const on = channels.filter((channel) => isKnownNow(channel) && channel.observed?.on).length;
  const drifting = channels.filter((channel) => channel.agreement === "drift").length;
  const unknown = channels.filter((channel) => !isKnownNow(channel)).length;
  const lockedOut = channels.filter((channel) => channel.lockout !== null).length;
  const rooms = new Set(channels.map((channel) => channel.room.slug)).size;
  const facts = [
    `${on} on`,
    ...(drifting ? [`${drifting} in drift`] : []),
    ...(unknown ? [`${unknown} unknown`] : []),
    ...(lockedOut ? [`${lockedOut} locked out`] : []),
  ];
  return (
    <header className="flex flex-wrap items-baseline gap-x-4">
      <h1 className="text-page">{site.name}</h1>
      <p className="text-soft">
        {rooms} rooms, {channels.length} channels. {facts.join(", ")}
      </p>
    </header>
  );
}

function Schedule({ site, traced, now }: { site: SiteView; traced: string | undefined; now: number }) {
  const shown = useGrowing(site.channels.length);
  const rooms = Map.groupBy(site.channels.slice(0, shown), (channel) => channel.room.slug);
  return (
    <div>
      <table role="table" data-traced={traced} className="board mt-3 block">
        <caption className="sr-only">Schedule of circuits of {site.name}</caption>
        <thead role="rowgroup" className="block max-md:sr-only">
          <tr role="row" className="board-row border-ink border-b text-left font-plate text-note text-soft">
            {["No.", "Channel", "State", "Last command", "Requested by", "Control"].map((title, index) => (
              <th
                key={title}
                role="columnheader"
                scope="col"
                className={`pb-1.5 font-medium ${index === 0 ? "pl-2" : "pl-4 md:max-[960px]:pl-2.5"} ${index === 5 ? "pr-2 text-right" : ""} ${index === 4 ? whoAsked(traced) : ""}`}
              >
                {title}
              </th>
            ))}
          </tr>
        </thead>
        {[...rooms].map(([slug, channels]) => (
          <tbody key={slug} role="rowgroup" className="block">
            <RoomRow channels={channels} now={now} />
            {channels.map((channel) => (
              <ChannelRow key={channel.address} channel={channel} site={site.slug} traced={traced} now={now} />
            ))}
          </tbody>
        ))}
      </table>
    </div>
  );
}

function RoomRow({ channels, now }: { channels: readonly ChannelView[]; now: number }) {
  const devices = new Map(channels.map((channel) => [channel.device.address, channel.device]));
  return (
    <tr role="row" className="block border-rule border-b">
      <th colSpan={6} scope="colgroup" className="block pt-3 pb-1.5 pl-2 text-left font-normal max-md:pl-0">
        <span className="font-plate font-semibold">{channels[0]?.room.name}</span>
        {[...devices.values()].map((device) => (
          <span key={device.address} className="ml-2.5 text-note text-soft">
            {device.name}, <Presence device={device} now={now} />
          </span>
        ))}
      </th>
    </tr>
  );
}

function Presence({ device, now }: { device: ChannelView["device"]; now: number }) {
  if (device.presence !== "offline") return presenceWords(device.presence);
  const since = device.presenceSince ? ` ${formatAgo(now - Date.parse(device.presenceSince))}` : "";
  return <strong className="font-semibold text-wrong">offline{since}</strong>;
}

function NoSites() {
  const mayBuild = useMay("build");
  return (
    <Note title="No site yet">
      {mayBuild ? (
        <>
          Add the first site with its first device in the{" "}
          <Link to="/setup" className="text-act underline">
            set-up
          </Link>
          .
        </>
      ) : (
        "An engineer of the team adds sites. Ask them for a role at your site."
      )}
    </Note>
  );
}

function NoChannels() {
  const mayBuild = useMay("build");
  return (
    <p className="mt-4 text-soft">
      No channels yet.{" "}
      {mayBuild && (
        <Link to="/setup" className="text-act underline">
          Continue the set-up
        </Link>
      )}
    </p>
  );
}

function NoSuchSite({ slug }: { slug: string }) {
  return (
    <Note title={`There is no site “${slug}”`}>
      It may have been renamed.{" "}
      <Link to="/board" className="text-act underline">
        Show the first site
      </Link>{" "}
      or choose one at the left.
    </Note>
  );
}

function Note({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div className="max-w-[560px] px-5 pt-5">
      <h1 className="text-page">{title}</h1>
      <p className="mt-2 text-soft">{children}</p>
    </div>
  );
}
