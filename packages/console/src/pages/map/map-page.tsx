/** The map: what asks, what catches it, what it names, which channels it reaches. */
import { type MapQuery, queryText } from "@bold-relay/api";
import { useMap, useMapFindings, useMapReach } from "../../api/queries.ts";
import { PAGE, SectionTitle } from "../../parts/form.tsx";
import { SiteChoice } from "../../parts/site-choice.tsx";
import { useSearchChange } from "../../parts/use-search-change.ts";
import { ChannelFacts } from "./channel-facts.tsx";
import { Drawing } from "./drawing.tsx";
import { FindBar } from "./find-bar.tsx";
import { MapFindings } from "./map-findings.tsx";
import { ReachList } from "./reach-list.tsx";
import { ReachTable } from "./reach-table.tsx";

export function MapPage() {
  const [params, change] = useSearchChange<"of" | "site">();
  const [of, site] = [params.get("of") ?? undefined, params.get("site") ?? undefined];
  const query: MapQuery = { ...(of === undefined ? {} : { of }), ...(site === undefined ? {} : { site }) };
  const { data: map, error } = useMap(query);
  const { data: page } = useMapReach(query);
  const { data: findings } = useMapFindings(site);
  const choose = (id: string) => change({ of: id });
  return (
    <div className={PAGE}>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-page">{map?.of ? map.of.name : "Map"}</h1>
        {map?.of && <p className="text-soft">{map.of.note}</p>}
        <p className="ml-auto text-note max-md:ml-0 print:hidden">
          <a
            href={`/api/v1/map/reach.csv${queryText(query)}`}
            download
            className="text-act underline underline-offset-2"
          >
            Export as CSV
          </a>
        </p>
      </header>
      <div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2 print:hidden">
        <FindBar of={of} onFind={choose} onClear={() => change({ of: "" })} />
        <SiteChoice site={site} onChoose={(slug) => change({ site: slug })} />
      </div>
      {error && (
        <p role="alert" className="mt-4 border-wrong border-l-[3px] bg-wrong-wash px-3 py-2">
          {error.message}
        </p>
      )}
      {!error && page?.channel && <ChannelFacts channel={page.channel} days={page.days} />}
      {/* Four columns do not fit a phone: there the list below is the map. */}
      {!error && map && (
        <div className="max-md:hidden print:block">
          <Drawing map={map} onChoose={choose} />
        </div>
      )}
      {!error && map && map.hiddenInlets > 0 && (
        <p className="mt-2 text-note text-soft">
          {map.hiddenInlets === 1 ? "One more inlet reaches" : `${map.hiddenInlets} more inlets reach`} this. They
          belong to the whole team: ask an engineer of the team.
        </p>
      )}
      {!error && page && (
        <div className="md:hidden print:hidden">
          <ReachList page={page} onChoose={choose} />
        </div>
      )}
      {of === undefined && findings && (
        <section aria-label="Findings">
          <SectionTitle>Findings</SectionTitle>
          <MapFindings findings={findings} onChoose={choose} />
        </section>
      )}
      {!error && page && (
        <div className="max-md:hidden print:block">
          <ReachTable page={page} onChoose={choose} />
        </div>
      )}
    </div>
  );
}
