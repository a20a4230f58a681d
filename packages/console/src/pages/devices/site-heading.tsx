/** A site above its devices, with the way to delete it. */
import type { DeviceView } from "@bold-relay/api";
import { counted } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useMay } from "../../api/session.ts";
import { QUIET, Trouble, Twice } from "../../parts/form.tsx";

interface SiteHeadingProps {
  readonly slug: string;
  readonly name: string;
  readonly devices: readonly DeviceView[];
  readonly onDeleted: () => void;
}

export function SiteHeading({ slug, name, devices, onDeleted }: SiteHeadingProps) {
  const mayBuild = useMay("build", slug);
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState<string | null>(null);
  const channels = devices.reduce((sum, device) => sum + device.channels.length, 0);
  const remove = async () => {
    setTrouble(null);
    try {
      const { version } = await client.site(slug);
      await client.deleteSite(slug, version);
      onDeleted();
      await queries.invalidateQueries({ queryKey: names.board });
      await queries.invalidateQueries({ queryKey: names.devices });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4 border-ink border-b pb-1.5">
        <h2 className="font-plate font-semibold">
          {mayBuild ? (
            <Link to={`/sites/${slug}`} className="text-act underline-offset-2 hover:underline">
              {name}
            </Link>
          ) : (
            name
          )}
        </h2>
        {devices.length === 0 && <span className="text-note text-soft">no devices</span>}
        {mayBuild && (
          <span className="ml-auto flex flex-wrap items-baseline gap-5">
            <Link to={`/sites/${slug}`} className={QUIET}>
              Rooms, groups, scenes
            </Link>
            <Twice
              verb="Delete site"
              sure={`Delete ${name} with ${counted(devices.length, "device")} and ${counted(channels, "channel")}. Log and history stay`}
              onSure={() => void remove()}
            />
          </span>
        )}
      </div>
      <Trouble>{trouble}</Trouble>
    </>
  );
}
