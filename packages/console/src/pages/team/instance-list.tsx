/** The instances that run beside each other: which of them leads, how each does, and what to look at. */
import type { InstanceView } from "@bold-relay/api";
import { formatAgo, formatDuration } from "@bold-relay/core";
import { useQuery } from "@tanstack/react-query";
import { client } from "../../api/client.ts";
import { SectionTitle } from "../../parts/form.tsx";
import { TableHead } from "../../parts/table-head.tsx";
import { when } from "../../parts/time.ts";

const AGAIN_MS = 2_000;
const TITLES = ["Instance", "State", "Version", "Started", "Last seen", "Clock", "Memory", "CPU"];

export function InstanceList() {
  const { data } = useQuery({ queryKey: ["cluster"], queryFn: () => client.cluster(), refetchInterval: AGAIN_MS });
  if (!data) return null;
  const { leader, since, instances, findings } = data;
  return (
    <>
      <SectionTitle>Instances</SectionTitle>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what does not fit is scrolled to, by keyboard too (WCAG 2.1.1) */}
      <section className="overflow-x-auto" aria-label="Instances" tabIndex={0}>
        <table className="mt-1 w-full text-left text-note">
          <TableHead titles={TITLES} />
          <tbody>
            {instances.map((one) => (
              <Row key={one.name} instance={one} />
            ))}
          </tbody>
        </table>
      </section>
      {leader !== null && (
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

function Row({ instance }: { instance: InstanceView }) {
  const { name, address, version, build, startedAt, seenMs, alive, leads, aheadMs, residentMb, cpu } = instance;
  return (
    <tr className="border-hairline border-b align-baseline" data-instance={name}>
      <td className="py-1.5 pr-4">
        <span className="font-medium">{name}</span>
        <span className="ml-2 font-mono text-soft">{address}</span>
      </td>
      <td className={`py-1.5 pr-4 ${alive ? "" : "font-semibold text-wrong"}`}>
        {leads ? "leads" : alive ? "stands by" : "not seen"}
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
    </tr>
  );
}
