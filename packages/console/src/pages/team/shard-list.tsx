/** The shards that the instances share: which leads each, its sites, and who was chosen to lead it. */
import type { InstanceView, ShardView } from "@bold-relay/api";
import { useQueryClient } from "@tanstack/react-query";
import { client } from "../../api/client.ts";
import { SectionTitle } from "../../parts/form.tsx";
import { ScrollRegion } from "../../parts/scroll-region.tsx";
import { TableHead } from "../../parts/table-head.tsx";
import { when } from "../../parts/time.ts";
import { MoveSite } from "./move-site.tsx";

const TITLES = ["Shard", "Leader", "Since", "Sites", "Chosen leader"];
/** So many sites are named. */
const NAMED = 6;

interface Props {
  readonly shards: readonly ShardView[];
  readonly instances: readonly InstanceView[];
  readonly onTrouble: (text: string | null) => void;
}

export function ShardList({ shards, instances, onTrouble }: Props) {
  const queries = useQueryClient();
  const choose = async (shard: number, instance: string | null) => {
    onTrouble(null);
    await client.handOverLead(instance, shard).catch((error: Error) => onTrouble(error.message));
    await queries.invalidateQueries({ queryKey: ["cluster"] });
  };
  const able = instances.filter(({ alive }) => alive).map(({ name }) => name);
  return (
    <>
      <SectionTitle>Shards</SectionTitle>
      <ScrollRegion label="Shards">
        <table className="mt-1 w-full text-left text-note">
          <TableHead titles={TITLES} />
          <tbody>
            {shards.map(({ shard, leader, since, chosen, sites }) => (
              <tr key={shard} className="border-hairline border-b align-baseline" data-shard={shard}>
                <td className="py-1.5 pr-4 tabular-nums">{shard}</td>
                <td className={`py-1.5 pr-4 whitespace-nowrap ${leader === null ? "font-semibold text-wrong" : ""}`}>
                  {leader ?? "none"}
                </td>
                <td className="py-1.5 pr-4 whitespace-nowrap">{leader === null ? "" : when.dateTime(since)}</td>
                <td className="py-1.5 pr-4">{namesOf(sites)}</td>
                <td className="py-1.5 whitespace-nowrap">
                  <select
                    aria-label={`Chosen leader of shard ${shard}`}
                    className="h-7 rounded-key border border-soft bg-enclosure px-2"
                    value={chosen ?? ""}
                    onChange={(event) => void choose(shard, event.target.value || null)}
                  >
                    <option value="">any instance</option>
                    {[...new Set([...able, ...(chosen === null ? [] : [chosen])])].map((name) => (
                      <option key={name} value={name}>
                        {name}
                      </option>
                    ))}
                  </select>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </ScrollRegion>
      <MoveSite shards={shards} onTrouble={onTrouble} />
    </>
  );
}

function namesOf(sites: readonly string[]): string {
  const more = sites.length - NAMED;
  return more > 0 ? `${sites.slice(0, NAMED).join(", ")} and ${more} more` : sites.join(", ");
}
