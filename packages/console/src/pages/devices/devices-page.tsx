/** Devices: is it there, does it work? Every device by site, and the way to add one. */
import type { DeviceView } from "@bold-relay/api";
import { counted, countWords, formatAgo, presenceWords } from "@bold-relay/core";
import { useState } from "react";
import { Link } from "wouter";
import { useBoard } from "../../api/board.ts";
import { useDevices, useProfiles } from "../../api/queries.ts";
import { useNow } from "../../live/use-now.ts";
import { Button } from "../../parts/button.tsx";
import { Deleted } from "../../parts/deleted.tsx";
import { PAGE, QUIET, STRONG } from "../../parts/form.tsx";
import { type DeviceDraft, emptyChannel } from "./device-draft.ts";
import { DeviceForm } from "./device-form.tsx";
import { SiteForm } from "./site-form.tsx";
import { SiteHeading } from "./site-heading.tsx";
import { UnassignedDevices } from "./unassigned.tsx";

export function DevicesPage() {
  const { data: devices, error } = useDevices();
  const { data: board } = useBoard();
  const { data: profiles } = useProfiles();
  const [draft, setDraft] = useState<DeviceDraft | null>(null);
  const [addsSite, setAddsSite] = useState(false);
  const [deleted, setDeleted] = useState<{ slug: string; name: string } | null>(null);
  const now = useNow();
  const sites = Map.groupBy(devices ?? [], ({ site }) => site.slug);
  const commissioned = devices?.filter(({ proof }) => proof?.failed === 0).length ?? 0;
  return (
    <div className={PAGE}>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">Devices</h1>
        {devices && (
          <p className="text-soft">
            {counted(devices.length, "device")}
            {devices.length > 0 && `: ${presenceCounts(devices)}. Commissioned: ${commissioned}`}
          </p>
        )}
        <Link to="/devices/profiles" className="ml-auto text-act text-note underline-offset-2 hover:underline">
          Profiles
        </Link>
        <Link to="/devices/translators" className={QUIET}>
          Translator plans
        </Link>
        <Button onClick={() => setAddsSite(!addsSite)} aria-expanded={addsSite} className={QUIET}>
          Add site
        </Button>
        <Button
          onClick={() => setDraft(draft === null ? emptyDraft() : null)}
          aria-expanded={draft !== null}
          className={STRONG}
        >
          Add device
        </Button>
      </header>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {deleted && <Deleted kind="site" slug={deleted.slug} name={deleted.name} onDone={() => setDeleted(null)} />}
      {addsSite && (
        <div className="mt-4 border-act border-l-[3px] bg-sheet px-4 py-3">
          <SiteForm onSaved={() => setAddsSite(false)} />
        </div>
      )}
      {draft && (
        <DeviceForm
          key={`${draft.site} ${draft.slug}`}
          title="New device"
          verb="Add device"
          first={draft}
          stands={null}
          onSaved={() => setDraft(null)}
          onLeave={() => setDraft(null)}
        />
      )}
      {devices?.length === 0 && (
        <p className="mt-6 max-w-[560px] text-soft">
          No devices yet. Add the first one: choose its profile, name its channels, then commission it.
        </p>
      )}
      {board?.sites
        .map(({ slug, name }) => ({ slug, name, all: sites.get(slug) ?? [] }))
        .map(({ slug, name, all }) => (
          <section key={slug} aria-label={name} className="mt-6">
            <SiteHeading slug={slug} name={name} devices={all} onDeleted={() => setDeleted({ slug, name })} />
            <ul>
              {all.map((device) => (
                <DeviceRow key={device.address} device={device} now={now} />
              ))}
            </ul>
          </section>
        ))}
      <UnassignedDevices onTake={take} />
    </div>
  );

  function emptyDraft(): DeviceDraft {
    const [site, profile] = [board?.sites[0]?.slug ?? "", profiles?.[0]?.profile.slug ?? ""];
    return { site, room: "", name: "", slug: "", profile, channels: [emptyChannel()] };
  }

  function take(heard: DeviceDraft): void {
    setDraft(heard);
    window.scrollTo({ top: 0 });
  }
}

/** @example presenceCounts(devices) // → "18 online, 240 never heard" */
function presenceCounts(devices: readonly DeviceView[]): string {
  const counts = { online: 0, offline: 0, "never-heard": 0, "not-watched": 0 };
  for (const { presence } of devices) counts[presence] += 1;
  return countWords(counts);
}

function DeviceRow({ device, now }: { device: DeviceView; now: number }) {
  const { address, name, room, profile, channels } = device;
  return (
    <li className="grid grid-cols-[minmax(180px,1.4fr)_minmax(150px,1fr)_120px_150px] items-baseline gap-x-4 gap-y-0.5 border-hairline border-b py-2 max-md:grid-cols-1">
      <span className="min-w-0">
        <Link to={`/devices/${address}`} className="font-medium text-act underline-offset-2 hover:underline">
          {name}
        </Link>
        <span className="block text-note text-soft">
          {room.name}, <span className="font-mono">{address}</span>
        </span>
      </span>
      <span className="text-note text-soft">
        {profile.name}
        <span className="block">
          {channels.length} channel{channels.length === 1 ? "" : "s"}
        </span>
      </span>
      <Presence device={device} now={now} />
      <Proof device={device} now={now} />
    </li>
  );
}

export function Presence({ device: { presence, presenceSince }, now }: { device: DeviceView; now: number }) {
  if (presence !== "offline")
    return (
      <span className={presence === "online" ? "text-note" : "text-note text-soft"}>{presenceWords(presence)}</span>
    );
  const since = presenceSince ? ` ${formatAgo(now - Date.parse(presenceSince))}` : "";
  return <strong className="font-semibold text-note text-wrong">offline{since}</strong>;
}

function Proof({ device: { proof }, now }: { device: DeviceView; now: number }) {
  if (proof === null) return <span className="text-note text-soft">not commissioned</span>;
  const ago = formatAgo(now - Date.parse(proof.finishedAt));
  if (proof.failed === 0) return <span className="text-note">commissioned {ago}</span>;
  return (
    <strong className="font-semibold text-note text-wrong">
      {proof.failed} step{proof.failed === 1 ? "" : "s"} failed {ago}
    </strong>
  );
}
