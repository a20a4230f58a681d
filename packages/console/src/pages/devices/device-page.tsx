/** One device: where it is, what it speaks, and its commissioning, step by step. */
import type { DeviceView } from "@bold-relay/api";
import { type ChannelDescription, channelOf } from "@bold-relay/core";
import { lazy, Suspense, useState } from "react";
import { Link, useParams } from "wouter";
import { client } from "../../api/client.ts";
import { useDevices } from "../../api/queries.ts";
import { useMay } from "../../api/session.ts";
import { useNow } from "../../live/use-now.ts";
import { Button } from "../../parts/button.tsx";
import { PAGE, QUIET, SectionTitle, Trouble } from "../../parts/form.tsx";
import { Commissioning } from "./commissioning.tsx";
import { DeviceAccess } from "./device-access.tsx";
import { DeviceCare } from "./device-care.tsx";
import { Presence } from "./devices-page.tsx";

export function DevicePage() {
  const { site, device: slug } = useParams();
  const address = `${site}/${slug}`;
  const { data: devices } = useDevices();
  const now = useNow();
  const device = devices?.find((one) => one.address === address);
  if (!devices) return null;
  if (!device) {
    return (
      <div className="px-5 pt-5">
        <h1 className="text-page">There is no device “{address}”</h1>
        <Link to="/devices" className={QUIET}>
          All devices
        </Link>
      </div>
    );
  }
  return (
    <div className={PAGE}>
      <Link to="/devices" className={QUIET}>
        All devices
      </Link>
      <h1 className="text-page">{device.name}</h1>
      <p className="text-soft">
        <Link to={`/sites/${device.site.slug}`} className="text-act underline underline-offset-2">
          {device.site.name}
        </Link>
        , {device.room.name}, <Presence device={device} now={now} />. {device.profile.name}.
      </p>
      <DeviceCare device={device} />
      <Channels device={device} />
      <section aria-label="Access to the broker">
        <SectionTitle>Access to the broker</SectionTitle>
        <DeviceAccess device={device} />
      </section>
      <Commissioning address={address} now={now} />
    </div>
  );
}

/** It brings the editor with it. */
const ChannelSettings = lazy(() => import("./channel-settings.tsx"));

function Channels({ device: { channels, site } }: { device: DeviceView }) {
  const mayBuild = useMay("build", site.slug);
  const [open, setOpen] = useState<{ path: string; first: ChannelDescription } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const toggle = async (path: string) => {
    setTrouble(null);
    if (open?.path === path) return setOpen(null);
    try {
      const first = channelOf((await client.site(site.slug)).site, path);
      setOpen(first && { path, first });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section aria-label="Channels">
      <SectionTitle>Channels and topics</SectionTitle>
      <Trouble>{trouble}</Trouble>
      <ul>
        {channels.map(({ address, name, kind, index, topics }) => (
          <li
            key={address}
            className="grid grid-cols-[40px_220px_minmax(0,1fr)_auto] gap-x-4 border-hairline border-b py-2 max-md:grid-cols-[40px_minmax(0,1fr)_auto]"
          >
            <span className="text-right text-note text-soft">{index}</span>
            <span>
              <span className="font-medium">{name}</span> <span className="text-note text-soft">{kind}</span>
            </span>
            <span className="min-w-0 break-all font-mono text-note text-soft max-md:col-start-2">
              {[
                topics.do && `→ ${topics.do}`,
                topics.stop && `→ ${topics.stop}`,
                topics.ask && `? ${topics.ask}`,
                topics.done && `← ${topics.done}`,
                topics.is && `← ${topics.is}`,
              ]
                .filter((topic) => topic !== null)
                .map((topic) => (
                  <span key={topic} className="block">
                    {topic}
                  </span>
                ))}
            </span>
            {mayBuild && (
              <span className="max-md:col-start-3 max-md:row-start-1">
                <Button
                  onClick={() => void toggle(pathIn(address))}
                  aria-expanded={open?.path === pathIn(address)}
                  aria-label={`Edit channel ${name}`}
                  className={QUIET}
                >
                  Edit channel
                </Button>
              </span>
            )}
            {open?.path === pathIn(address) && (
              <div className="col-span-full">
                <Suspense fallback={null}>
                  <ChannelSettings site={site.slug} {...open} onClose={() => setOpen(null)} />
                </Suspense>
              </div>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** `device/channel` of an address. */
function pathIn(address: string): string {
  return address.split("/").slice(1).join("/");
}
