/** The instances that run beside each other: which of them leads, how each does, and what to look at. */
import type { InstanceView } from "@bold-relay/api";
import { formatAgo, formatDuration } from "@bold-relay/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, SectionTitle, Trouble } from "../../parts/form.tsx";
import { ScrollRegion } from "../../parts/scroll-region.tsx";
import { TableHead } from "../../parts/table-head.tsx";
import { when } from "../../parts/time.ts";
import { ShardList } from "./shard-list.tsx";

const AGAIN_MS = 2_000;
/** For longer nobody else waits for the one that was asked to lead, ms. */
const LEADS_WITHIN_MS = 15_000;
const TITLES = ["Instance", "State", "Version", "Started", "Last seen", "Clock", "Memory", "CPU"];

export function InstanceList() {
  const queries = useQueryClient();
  /** Who was asked to lead, until it does. */
  const [wanted, setWanted] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const { data } = useQuery({ queryKey: ["cluster"], queryFn: () => client.cluster(), refetchInterval: AGAIN_MS });
  const leads = data?.leader ?? null;
  useEffect(() => {
    if (wanted === null) return;
    if (leads === wanted) return setWanted(null);
    const timer = setTimeout(() => {
      setWanted(null);
      setTrouble(`${wanted} did not take the lead. Look at its machine, then try again.`);
    }, LEADS_WITHIN_MS);
    return () => clearTimeout(timer);
  }, [wanted, leads]);
  if (!data) return null;
  const { leader, since, shards, instances, findings } = data;
  const isWhole = shards.length === 1;
  const handOver = async (instance: string) => {
    setTrouble(null);
    setWanted(instance);
    await client.handOverLead(instance).catch((error: Error) => {
      setWanted(null);
      setTrouble(error.message);
    });
    await queries.invalidateQueries({ queryKey: ["cluster"] });
  };
  return (
    <>
      <SectionTitle>Instances</SectionTitle>
      <ScrollRegion label="Instances">
        <table className="mt-1 w-full text-left text-note">
          <TableHead titles={isWhole ? [...TITLES, "Lead"] : TITLES} />
          <tbody>
            {instances.map((one) => (
              <Row
                key={one.name}
                instance={one}
                wanted={wanted}
                onHandOver={() => void handOver(one.name)}
                isWhole={isWhole}
              />
            ))}
          </tbody>
        </table>
      </ScrollRegion>
      <Trouble>{trouble}</Trouble>
      {!isWhole && <ShardList shards={shards} instances={instances} onTrouble={setTrouble} />}
      {isWhole && leader !== null && (
        <p className="mt-2 text-note text-soft">
          {leader} leads since {when.dateTime(since)}.
        </p>
      )}
      {findings.map((text) => (
        <p key={text} className="mt-2 font-medium text-note text-wrong">
          {text}
        </p>
      ))}
    </>
  );
}

interface RowProps {
  readonly instance: InstanceView;
  /** Who was asked to lead. */
  readonly wanted: string | null;
  readonly onHandOver: () => void;
  /** There is one shard: it is led by one of them. */
  readonly isWhole: boolean;
}

function Row({ instance, wanted, onHandOver, isWhole }: RowProps) {
  const { name, address, version, build, startedAt, seenMs, alive, leads, shards, aheadMs, residentMb, cpu } = instance;
  return (
    <tr className="border-hairline border-b align-baseline" data-instance={name}>
      <td className="py-1.5 pr-4">
        <span className="font-medium">{name}</span>
        <span className="ml-2 font-mono text-soft">{address}</span>
      </td>
      <td className={`py-1.5 pr-4 whitespace-nowrap ${alive ? "" : "font-semibold text-wrong"}`}>
        {leads ? `leads${shards.length > 1 ? ` ${shards.length} shards` : ""}` : alive ? "stands by" : "not seen"}
      </td>
      <td className="py-1.5 pr-4">{build === null ? version : `${version} (build ${build})`}</td>
      <td className="py-1.5 pr-4 whitespace-nowrap">{when.dateTime(startedAt)}</td>
      <td className="py-1.5 pr-4 whitespace-nowrap">{formatAgo(seenMs)}</td>
      <td className="py-1.5 pr-4 whitespace-nowrap">
        {aheadMs < 0 ? "\u2212" : "+"}
        {formatDuration(Math.abs(aheadMs))}
      </td>
      <td className="py-1.5 pr-4 whitespace-nowrap">{residentMb} MB</td>
      <td className="py-1.5 pr-4">{Math.round(cpu * 100)} %</td>
      {isWhole && (
        <td className="py-1.5 text-right whitespace-nowrap">
          {alive && !leads && (
            <Button onClick={onHandOver} disabled={wanted === name} className={QUIET}>
              {wanted === name ? "Handing over …" : "Hand over the lead"}
            </Button>
          )}
        </td>
      )}
    </tr>
  );
}
