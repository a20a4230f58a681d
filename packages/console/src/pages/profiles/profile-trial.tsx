/** What a profile would write, how it would read messages, and which profiles understand them best. */
import type { MessageBody, ProfileTrialView } from "@bold-relay/api";
import type { ChannelDescription, Profile } from "@bold-relay/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client } from "../../api/client.ts";
import { SectionTitle, Trouble } from "../../parts/form.tsx";
import { ScrollRegion } from "../../parts/scroll-region.tsx";
import { TableHead } from "../../parts/table-head.tsx";

interface TrialProps {
  profile: Profile;
  channels: readonly ChannelDescription[];
  messages: readonly MessageBody[];
}

export function ProfileTrial({ profile, channels, messages }: TrialProps) {
  const body = { profile, device: { slug: "board", channels }, messages: [...messages] };
  const { data: trial, error } = useQuery({
    queryKey: ["profile trial", JSON.stringify(body)],
    queryFn: () => client.tryProfile(body),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <>
      <Trouble>{error ? error.message : null}</Trouble>
      {trial && !error && (
        <>
          <Findings trial={trial} />
          <Writes trial={trial} />
          <Reads trial={trial} />
        </>
      )}
    </>
  );
}

function Findings({ trial: { findings } }: { trial: ProfileTrialView }) {
  return findings.map(({ level, at, text }) => (
    <p key={`${at} ${text}`} className={`mt-2 text-note ${level === "wrong" ? "text-wrong" : "text-soft"}`}>
      <span className="font-mono">{at.replace(/^devices\/board\//, "")}</span> {text}
    </p>
  ));
}

const CELL = "py-1.5 pr-4 align-baseline";

function Writes({ trial: { writes } }: { trial: ProfileTrialView }) {
  return (
    <ScrollRegion label="Commands">
      <SectionTitle>Commands</SectionTitle>
      {writes.length === 0 && <p className="py-2 text-note text-soft">None. These channels take no commands.</p>}
      {writes.length > 0 && (
        <table className="w-full border-collapse text-left text-note">
          <TableHead titles={["Channel", "Action", "Topic", "Payload", "Flags"]} />
          <tbody>
            {writes.map(({ channel, action, to, topic, payload, qos, retain, expiryS }) => (
              <tr key={`${channel} ${action} ${to}`} className="border-hairline border-b">
                <td className={`${CELL} font-mono`}>{channel}</td>
                <td className={CELL}>{to === action ? action : `${action}: ${to}`}</td>
                <td className={`${CELL} font-mono`}>{topic}</td>
                <td className={`${CELL} break-all font-mono`}>{payload}</td>
                <td className={`${CELL} whitespace-nowrap text-soft`}>
                  QoS {qos}
                  {retain && ", retained"}, expires {expiryS} s
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </ScrollRegion>
  );
}

function Reads({ trial: { reads, nearest } }: { trial: ProfileTrialView }) {
  if (reads.length === 0) return null;
  return (
    <ScrollRegion label="Received messages">
      <SectionTitle>Received messages</SectionTitle>
      <table className="w-full border-collapse text-left text-note">
        <TableHead titles={["Message", "Read as", "Meaning", "Proves"]} />
        <tbody>
          {reads.map(({ topic, payload, takenFor, channel, means, proves }, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the same message may stand there twice
            <tr key={index} className="border-hairline border-b">
              <td className={`${CELL} font-mono [overflow-wrap:anywhere]`}>
                {topic} <span className="text-soft">{payload}</span>
              </td>
              <td className={CELL}>
                {takenFor ?? <strong className="font-semibold text-wrong">nothing</strong>}
                {channel !== null && <span className="block font-mono text-soft">{channel}</span>}
              </td>
              <td className={CELL}>{means}</td>
              <td className={CELL}>{proves}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {nearest.length > 0 && (
        <>
          <SectionTitle>Profiles that read these payloads</SectionTitle>
          <ul className="mt-2 text-note">
            {nearest.map(({ profile, name, understood, exact }) => (
              <li key={profile} className="py-0.5">
                <span className="font-mono">{profile}</span>, {name}:{" "}
                <span className="text-soft">
                  {understood} of {reads.length} understood, {exact} exactly
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </ScrollRegion>
  );
}
