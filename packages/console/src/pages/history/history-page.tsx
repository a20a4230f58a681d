/** The last 24 hours of a channel on one line of time, and the one line to read to a caller. */
import type { ChannelView, HistoryEntry, HistoryView } from "@bold-relay/api";
import { coloursIn, countsNumbers, formatAgo, formatDuration, kindOf, readsNumbers } from "@bold-relay/core";
import { useState } from "react";
import { Link, useParams } from "wouter";
import { useBoard, useTrace } from "../../api/board.ts";
import { useHistory } from "../../api/queries.ts";
import { useMay } from "../../api/session.ts";
import { Button } from "../../parts/button.tsx";
import { PAGE } from "../../parts/form.tsx";
import { Keys } from "../../parts/keys.tsx";
import { Lamp } from "../../parts/lamp.tsx";
import { StageTrack } from "../../parts/stage-track.tsx";
import { when } from "../../parts/time.ts";
import { ageWords, capital, isKnownNow } from "../../parts/words.ts";
import { channelKeys, readKeys } from "../board/channel-keys.ts";
import { type Asking, useAsk } from "../board/use-ask.ts";
import { OnOverTime, ReadingOverTime } from "./over-time.tsx";

export function HistoryPage() {
  const { site = "", device = "", channel = "" } = useParams();
  const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useHistory(`${site}/${device}/${channel}`);
  const day = data?.pages[0];
  if (error && !day) {
    return (
      <p role="alert" className="px-5 pt-5">
        {error.message}
      </p>
    );
  }
  if (!day) return null;
  const isReading = readsNumbers(kindOf(day.kind));
  const isSwitched = !countsNumbers(kindOf(day.kind));
  return (
    <div className={PAGE}>
      <p className="text-note text-soft">
        <Link to={`/board/${site}`} className="text-act underline underline-offset-2">
          Board
        </Link>{" "}
        / {day.channel}
        <MapLink address={day.channel} />
      </p>
      <h1 className="mt-1 text-page">{day.name}: history of the last 24 hours</h1>
      <NowLine address={day.channel} />
      <Answer text={day.answer} />
      {isReading && <ReadingOverTime channel={day.channel} />}
      {isSwitched && <Strip day={day} />}
      <Entries day={day} pages={data?.pages ?? []} site={site} />
      {hasNextPage && !isReading && (
        <Button
          disabled={isFetchingNextPage}
          onClick={() => void fetchNextPage()}
          className="mt-4 h-9 rounded-key border border-soft px-4 font-semibold text-note hover:border-act hover:text-act"
        >
          Show earlier entries
        </Button>
      )}
      {isSwitched && <OnOverTime channel={day.channel} />}
    </div>
  );
}

function MapLink({ address }: { address: string }) {
  if (!useMay("operate")) return null;
  return (
    <Link to={`/map?of=${encodeURIComponent(address)}`} className="ml-4 text-act underline underline-offset-2">
      What can switch it
    </Link>
  );
}

/** What it is now, with its keys: whoever came by its label wants to see and to switch. */
function NowLine({ address }: { address: string }) {
  const { data: board } = useBoard();
  const channel = board?.sites.flatMap(({ channels }) => channels).find((one) => one.address === address);
  const { pressed, trouble, ask } = useAsk(address);
  if (!channel) return null;
  const { observed, lockout } = channel;
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2" data-channel={address}>
      {!countsNumbers(kindOf(channel.kind)) && (
        <Lamp on={isKnownNow(channel) ? (observed?.on ?? null) : null} colours={coloursIn(observed?.value)} />
      )}
      <span className="font-medium">{observed ? capital(observed.text) : "Unknown"}</span>
      {ageWords(channel, Date.now()) && <span className="text-soft">{ageWords(channel, Date.now())}</span>}
      {lockout ? (
        <span className="font-semibold text-wrong">Locked out by {lockout.holder}</span>
      ) : (
        <HistoryKeys channel={channel} pressed={pressed} ask={ask} />
      )}
      {trouble && (
        <p role="alert" className="w-full text-note text-wrong">
          {trouble}
        </p>
      )}
    </div>
  );
}

interface HistoryKeysProps extends Pick<Asking, "pressed" | "ask"> {
  readonly channel: ChannelView;
}

/** What its kind takes, and to be asked what it is, where its device can be. */
function HistoryKeys({ channel, pressed, ask }: HistoryKeysProps) {
  const [reading, setReading] = useState<string | null>(null);
  const name = `${channel.name}, ${channel.room.name}`;
  const keys = channelKeys(channel, pressed);
  const read = readKeys(channel, pressed);
  return (
    <>
      {keys.length > 0 && <Keys name={name} keys={keys} onPress={ask} />}
      {read.length > 0 && (
        <Keys name={`Ask the device: ${name}`} keys={read} onPress={async (wish) => setReading(await ask(wish))} />
      )}
      {reading && <Reading request={reading} />}
    </>
  );
}

/** How far the question got. */
function Reading({ request }: { request: string }) {
  const { data: trace } = useTrace(request);
  const command = trace?.commands[0];
  if (!command) return null;
  return (
    <Link
      to={`/board/${command.channel.split("/")[0]}/trace/${request}`}
      className="inline-flex items-center gap-2 text-note hover:underline"
    >
      <StageTrack command={command} />
      <span role="status" className={command.verdict.severity === "bad" ? "text-wrong" : "text-soft"}>
        {command.verdict.headline}
      </span>
    </Link>
  );
}

function Answer({ text }: { text: string }) {
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    await navigator.clipboard.writeText(text);
    setCopied(true);
  };
  return (
    <div className="mt-4 border-ink border-l-[3px] bg-sheet px-4 py-3">
      <p className="text-[17px] leading-[25px]">{text}</p>
      <Button
        onClick={() => void copy()}
        className="mt-2 h-8 rounded-key border border-soft px-3 font-semibold text-note hover:border-act hover:text-act"
      >
        {copied ? "Copied" : "Copy the answer"}
      </Button>
    </div>
  );
}

/** The curve tells of the others. */
const MOST_READINGS = 20;

const WIDTH = 1_000;
const HEIGHT = 34;

/** Lit time in yellow, commands as marks above: ink where they reached their target stage, red crosses where not. */
function Strip({ day }: { day: HistoryView }) {
  const from = Date.parse(day.from);
  const span = Date.parse(day.at) - from;
  const x = (at: string) => ((Date.parse(at) - from) / span) * WIDTH;
  const lit = day.on.map(({ from, to }) => ({ start: x(from), end: x(to) }));
  return (
    <figure className="mt-6">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="none"
        className="h-[44px] w-full"
        role="img"
        aria-label={`On for ${formatDuration(day.onMs)}, ${day.commanded} commands`}
      >
        <rect x="0" y="16" width={WIDTH} height="18" fill="none" stroke="var(--color-rule)" />
        {lit.map(({ start, end }) => (
          <rect key={start} x={start} y="16" width={Math.max(1.5, end - start)} height="18" fill="var(--color-lamp)" />
        ))}
        {day.commands.map(({ at, end }, index) => (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: two can be of one moment, and none ever moves
            key={`${at} ${index}`}
            x={x(at) - 1}
            y="2"
            width="2.5"
            height="10"
            fill={end === "delivered" ? "var(--color-ink)" : "var(--color-wrong)"}
          />
        ))}
      </svg>
      <figcaption className="flex justify-between text-note text-soft">
        <span>{when.clock(day.from)}</span>
        <span>
          {day.onMs > 0 ? `on for ${formatDuration(day.onMs)}` : "never on"}, {day.commanded} commanded
        </span>
        <span>now</span>
      </figcaption>
    </figure>
  );
}

interface EntriesProps {
  readonly day: HistoryView;
  /** The newest first. */
  readonly pages: readonly HistoryView[];
  readonly site: string;
}

function Entries({ day, pages, site }: EntriesProps) {
  if (day.entries.length === 0) return <p className="mt-6 text-soft">No change and no command in the last 24 hours.</p>;
  const isReading = readsNumbers(kindOf(day.kind));
  const newestFirst = pages
    .flatMap(({ entries }) => [...entries].reverse())
    .slice(0, isReading ? MOST_READINGS : undefined);
  return (
    <ol className="mt-6" aria-label="What happened, newest first">
      {newestFirst.map((entry) => (
        <li
          key={`${entry.at} ${entry.kind} ${entry.command?.id ?? ""}`}
          className="grid grid-cols-[164px_minmax(0,1fr)_auto] items-center gap-x-4 border-hairline border-b py-2 max-md:grid-cols-[86px_minmax(0,1fr)]"
        >
          <span className="text-note text-soft" title={when.dateTime(entry.at)}>
            {when.clock(entry.at)}
            <span className="block">{formatAgo(Date.parse(day.at) - Date.parse(entry.at))}</span>
          </span>
          <What entry={entry} lamp={!countsNumbers(kindOf(day.kind))} />
          {entry.command && (
            <Link
              to={`/board/${site}/trace/${entry.command.requestId}`}
              className="inline-flex items-center gap-2 text-note hover:underline max-md:col-start-2"
            >
              <span className="sr-only">Trace:</span>
              <StageTrack command={entry.command} />
              <span className={entry.command.end === "delivered" ? "text-soft" : "text-wrong"}>
                {entry.command.end ?? "open"}
              </span>
            </Link>
          )}
        </li>
      ))}
    </ol>
  );
}

function What({ entry, lamp }: { entry: HistoryEntry; lamp: boolean }) {
  if (entry.kind === "command") {
    return (
      <span>
        Commanded: <span className="font-medium">{entry.is}</span>
        <span className="ml-2 text-note text-soft">{entry.by}</span>
      </span>
    );
  }
  return (
    <span className="flex items-center gap-2.5">
      {lamp && <Lamp on={entry.on} />}
      <span>
        <span className="font-medium">{capital(entry.is)}</span>
        <span className="ml-2 text-note text-soft">{entry.by}</span>
      </span>
    </span>
  );
}
