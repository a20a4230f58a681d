/** One site: its name and time zone, rooms, groups, scenes, interlocks and versions; the same as YAML. */

import { useState } from "react";
import { Link, useParams } from "wouter";
import { useSite } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { PAGE, QUIET } from "../../parts/form.tsx";
import { Versions } from "../../parts/versions.tsx";
import { Groups } from "./groups.tsx";
import { Interlocks } from "./interlocks.tsx";
import { Rooms } from "./rooms.tsx";
import { Scenes } from "./scenes.tsx";
import { SiteFields } from "./site-fields.tsx";
import { SiteText } from "./site-text.tsx";

export function SitePage() {
  const { site: slug = "" } = useParams();
  const { data, error } = useSite(slug);
  const [open, setOpen] = useState<"fields" | "text" | null>(null);
  const toggle = (what: "fields" | "text") => setOpen(open === what ? null : what);
  const close = () => setOpen(null);
  return (
    <div className={PAGE}>
      <Link to="/devices" className={QUIET}>
        Devices
      </Link>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {data && (
        <>
          <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
            <h1 className="text-page">{data.site.name}</h1>
            <p className="text-soft">
              <span className="font-mono text-note">{data.site.slug}</span>,{" "}
              {data.site.timeZone ?? "no time zone of its own"}, version {data.version}
            </p>
            <span className="ml-auto flex gap-5">
              <Button onClick={() => toggle("fields")} aria-expanded={open === "fields"} className={QUIET}>
                Edit site
              </Button>
              <Button onClick={() => toggle("text")} aria-expanded={open === "text"} className={QUIET}>
                Edit as YAML
              </Button>
            </span>
          </header>
          {open === "fields" && <SiteFields site={data.site} onClose={close} />}
          {open === "text" && <SiteText site={data.site} version={data.version} onClose={close} />}
          <Rooms site={data.site} />
          <Groups site={data.site} />
          <Scenes site={data.site} />
          <Interlocks site={data.site} />
          <Versions kind="site" slug={data.site.slug} version={data.version} />
        </>
      )}
    </div>
  );
}
