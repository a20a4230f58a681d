/** Devices that are heard and that nobody has described: what is on the broker, matched with what profiles speak. */
import type { WireMessageView } from "@bold-relay/api";
import { type Candidate, candidatesFor, type Unassigned } from "@bold-relay/core";
import { useState } from "react";
import { useBoard } from "../../api/board.ts";
import { client } from "../../api/client.ts";
import { useProfiles } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, SectionTitle, Trouble } from "../../parts/form.tsx";
import { channelDraft, type DeviceDraft } from "./device-draft.ts";

/** How long it is listened, ms: what lies retained comes at once, and most devices speak now and then. */
const LISTEN_MS = 4_000;
const MOST_TOPICS = 2_000;
const MOST_SHOWN = 20;

interface Found extends Candidate {
  readonly site: string;
}

export function UnassignedDevices({ onTake }: { onTake: (draft: DeviceDraft) => void }) {
  const { data: board } = useBoard();
  const { data: profiles } = useProfiles();
  const [found, setFound] = useState<{ devices: readonly Found[]; topics: number } | null>(null);
  const [listening, setListening] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const listen = async () => {
    setListening(true);
    setTrouble(null);
    try {
      const heard = await hear();
      const sites = board?.sites.map(({ slug }) => slug) ?? [];
      const known = (profiles ?? []).map(({ profile }) => profile);
      const devices = sites.flatMap((site) =>
        candidatesFor(site, known, heard).map((candidate) => ({ ...candidate, site })),
      );
      setFound({ devices: best(devices), topics: heard.length });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    } finally {
      setListening(false);
    }
  };
  return (
    <section aria-label="Unassigned devices">
      <SectionTitle>Unassigned devices</SectionTitle>
      <p className="mt-3 flex flex-wrap items-baseline gap-4">
        <Button disabled={listening} onClick={() => void listen()} className={QUIET}>
          {listening ? "Listening …" : "Listen for unassigned devices"}
        </Button>
        {found && <span className="text-note text-soft">{summary(found)}</span>}
      </p>
      <Trouble>{trouble}</Trouble>
      <ul>
        {found?.devices.map((candidate) => (
          <li
            key={`${candidate.site} ${candidate.device} ${candidate.profile}`}
            className="flex flex-wrap items-baseline gap-x-4 border-hairline border-b py-2"
          >
            <span className="font-mono text-note">
              {candidate.site}/{candidate.device}
            </span>
            <span className="text-note text-soft">
              matches the profile {candidate.profile}:{" "}
              {candidate.channels.map(({ slug, kind }) => `${slug} (${kind})`).join(", ")}
            </span>
            <Button onClick={() => onTake(draftFrom(candidate))} className={`${QUIET} ml-auto`}>
              Add device
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What is on the broker, and claimed by nobody: the newest of each topic. */
async function hear(): Promise<Unassigned[]> {
  const stop = new AbortController();
  const newest = new Map<string, Unassigned>();
  const timer = setTimeout(() => stop.abort(), LISTEN_MS);
  await client
    .wire(
      { filter: "#", all: true },
      (event) => {
        if (event.name === "message" && event.data.role === null && newest.size < MOST_TOPICS)
          newest.set(event.data.topic, { topic: event.data.topic, payload: bytesOf(event.data) });
      },
      stop.signal,
    )
    .catch((error: unknown) => {
      if (!stop.signal.aborted) throw error;
    });
  clearTimeout(timer);
  return [...newest.values()];
}

function bytesOf({ hex }: WireMessageView): Uint8Array {
  return Uint8Array.from(hex.match(/[0-9a-f]{2}/gi) ?? [], (pair) => Number.parseInt(pair, 16));
}

/** Of several profiles that would explain a device, those that explain it best. */
function best(devices: readonly Found[]): readonly Found[] {
  const first = new Map<string, Found>();
  for (const one of devices) if (!first.has(`${one.site}/${one.device}`)) first.set(`${one.site}/${one.device}`, one);
  const isBest = (one: Found) => {
    const top = first.get(`${one.site}/${one.device}`);
    return top !== undefined && top.topics === one.topics && top.exact === one.exact;
  };
  return devices.filter(isBest).slice(0, MOST_SHOWN);
}

function summary({ devices, topics }: { devices: readonly Found[]; topics: number }): string {
  if (topics === 0) return "No unassigned topics. Every topic belongs to a device.";
  const heard = `${topics} unassigned topic${topics === 1 ? "" : "s"}`;
  return devices.length === 0 ? `${heard}. No profile matches.` : `${heard}.`;
}

function draftFrom({ site, device, profile, channels }: Found): DeviceDraft {
  return { site, room: "", name: "", slug: device, profile, channels: channels.map(channelDraft) };
}
