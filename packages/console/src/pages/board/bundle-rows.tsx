/** Groups and scenes: one press for several channels, and how many of them are on. */

import { type BundleView, type ChannelView, reachedText, type SiteView } from "@bold-relay/api";
import { counted } from "@bold-relay/core";
import { memo, useState } from "react";
import { Link } from "wouter";
import { useTrace } from "../../api/board.ts";
import { useMay } from "../../api/session.ts";
import { type Key, Keys } from "../../parts/keys.tsx";
import { isKnownNow } from "../../parts/words.ts";
import { useAsk, type Wish } from "./use-ask.ts";

export function BundleRows({ site }: { site: SiteView }) {
  if (site.bundles.length === 0) return null;
  const byAddress = new Map(site.channels.map((channel) => [channel.address, channel]));
  return (
    <section aria-label="Groups and scenes" className="mt-4 max-md:order-last">
      <h2 className="border-ink border-b pb-1.5 pl-2 font-medium font-plate text-note text-soft max-md:pl-0">
        Groups and scenes
      </h2>
      <ul>
        {site.bundles.map((bundle) => (
          <BundleRow
            key={bundle.address}
            bundle={bundle}
            site={site.slug}
            members={bundle.channels.flatMap((address) => byAddress.get(address) ?? [])}
          />
        ))}
      </ul>
    </section>
  );
}

interface BundleRowProps {
  readonly bundle: BundleView;
  readonly site: string;
  readonly members: readonly ChannelView[];
}

const BundleRow = memo(function BundleRow({ bundle, site, members }: BundleRowProps) {
  const { pressed, trouble, ask } = useAsk(bundle.address);
  const maySwitch = useMay("switch", site);
  const [asked, setAsked] = useState<string | null>(null);
  const press = async (wish: Wish) => setAsked(await ask(wish));
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 border-hairline border-b py-2 pr-2 pl-2 max-md:px-0">
      <span className="font-plate font-semibold">{bundle.name}</span>
      <span className="text-note text-soft">
        {bundle.kind === "scene" ? `scene, ${counted(members.length, "channel")}` : groupState(members)}
      </span>
      <span className="ml-auto flex items-center gap-3">
        {asked && <Outcome request={asked} site={site} />}
        {maySwitch && <Keys name={bundle.name} keys={bundleKeys(bundle, members, pressed)} onPress={press} />}
      </span>
      {trouble && (
        <p role="alert" className="w-full text-note text-wrong">
          {trouble}
        </p>
      )}
    </li>
  );
});

/** How many reached their target stage, with the way to the trace. */
function Outcome({ request: id, site }: { request: string; site: string }) {
  const { data: request } = useTrace(id);
  if (!request) return null;
  const whole = request.outcome === "delivered";
  return (
    <Link to={`/board/${site}/trace/${id}`} className="text-note hover:underline">
      <span className={whole || request.outcome === "open" ? "text-soft" : "text-wrong"} aria-live="polite">
        {reachedText(request)} delivered{request.outcome === "open" ? " so far" : ""}
      </span>
    </Link>
  );
}

function groupState(members: readonly ChannelView[]): string {
  const on = members.filter((channel) => isKnownNow(channel) && channel.observed?.on).length;
  const unknown = members.filter((channel) => !isKnownNow(channel)).length;
  return `group, ${on} of ${members.length} on${unknown ? `, ${unknown} unknown` : ""}`;
}

const LABELS: Record<string, string> = { on: "On", off: "Off", recall: "Recall" };

function bundleKeys(bundle: BundleView, members: readonly ChannelView[], pressed: Wish | null): Key<Wish>[] {
  const all = (on: boolean) => members.every((channel) => isKnownNow(channel) && channel.observed?.on === on);
  const is = (action: string) => (action === "on" ? all(true) : action === "off" ? all(false) : null);
  return ["off", "on", "recall"]
    .filter((action) => bundle.actions.includes(action))
    .map((action) => ({
      label: LABELS[action] ?? action,
      meaning: { action },
      is: is(action),
      asked: pressed?.action === action,
    }));
}
