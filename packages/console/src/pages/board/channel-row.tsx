/** One channel, one row: what it is, what it was told, how far that got, who asked, and the control. */
import type { ChannelView, CommandView } from "@bold-relay/api";
import {
  causeWords,
  coloursIn,
  countsNumbers,
  formatAgo,
  formatDuration,
  kindOf,
  requesterText,
} from "@bold-relay/core";
import { memo } from "react";
import { Link } from "wouter";
import { useMay } from "../../api/session.ts";
import { Keys } from "../../parts/keys.tsx";
import { Lamp } from "../../parts/lamp.tsx";
import { Plate } from "../../parts/plate.tsx";
import { StageTrack } from "../../parts/stage-track.tsx";
import { when } from "../../parts/time.ts";
import { ageWords, capital, isKnownNow } from "../../parts/words.ts";
import { channelKeys } from "./channel-keys.ts";
import { LockedOut, LockOut } from "./lock-out.tsx";
import { Setting } from "./setting.tsx";
import { useAsk } from "./use-ask.ts";

interface ChannelRowProps {
  readonly channel: ChannelView;
  readonly site: string;
  /** The request whose trace is open. */
  readonly traced: string | undefined;
  readonly now: number;
}

/** On a narrow screen there is no room for who asked, and beside an open trace not either, which tells it anyway. */
export function whoAsked(traced: string | undefined): string {
  return traced ? "md:max-[1440px]:hidden" : "md:max-[1023px]:hidden";
}

export const ChannelRow = memo(function ChannelRow({ channel, site, traced, now }: ChannelRowProps) {
  const { pressed, trouble, ask } = useAsk(channel.address);
  const maySwitch = useMay("switch", site);
  const last = channel.lastCommand;
  const isInput = kindOf(channel.kind).input;
  const selected = last !== null && last.requestId === traced;
  return (
    <tr
      role="row"
      className={`board-row group min-h-[46px] border-hairline border-b max-md:gap-x-2 max-md:py-2.5 ${channel.lockout ? "tape" : selected ? "bg-act-wash" : ""}`}
      data-channel={channel.address}
    >
      <td role="cell" className="pl-2 text-right text-soft max-md:row-span-2 max-md:self-start max-md:pt-1 max-md:pl-0">
        {channel.number}
      </td>
      <th role="rowheader" scope="row" className="min-w-0 pl-4 md:max-[960px]:pl-2.5 text-left font-normal max-md:pl-0">
        <Link to={`/history/${channel.address}`} title="History of the last 24 hours">
          {isInput ? (
            <span className="block truncate font-plate font-semibold">{channel.name}</span>
          ) : (
            <Plate name={channel.name} />
          )}
        </Link>
      </th>
      <td role="cell" className="pl-4 md:max-[960px]:pl-2.5 max-md:col-start-3 max-md:row-start-1 max-md:pl-0">
        <IsCell channel={channel} now={now} />
      </td>
      <td
        role="cell"
        className="pl-4 md:max-[960px]:pl-2.5 max-md:col-start-2 max-md:row-start-2 max-md:mt-1.5 max-md:pl-0"
      >
        {last ? (
          <CommandCell command={last} site={site} />
        ) : (
          <span className="text-faint text-note">{isInput ? "" : "never commanded"}</span>
        )}
      </td>
      <td
        role="cell"
        className={`${whoAsked(traced)} min-w-0 pl-4 md:max-[960px]:pl-2.5 text-note leading-[17px] max-md:col-start-2 max-md:row-start-3 max-md:pl-0 max-md:[&>p]:inline max-md:[&>p+p]:before:content-[',_']`}
      >
        <ByCell channel={channel} now={now} />
      </td>
      <td
        role="cell"
        className="pr-2 pl-4 md:max-[960px]:pl-2.5 text-right max-md:col-start-3 max-md:row-span-2 max-md:row-start-2 max-md:pr-0 max-md:pl-0"
      >
        {isInput ? null : channel.lockout ? (
          <LockedOut channel={channel} lockout={channel.lockout} now={now} />
        ) : (
          <div className="flex items-center justify-end gap-2.5 md:flex-wrap md:gap-y-1 md:py-1 max-md:flex-col-reverse max-md:items-end max-md:gap-1.5">
            <LockOut channel={channel} />
            {maySwitch && (
              <>
                <Setting channel={channel} onSet={(wish) => void ask(wish)} />
                <Keys
                  name={`${channel.name}, ${channel.room.name}`}
                  keys={channelKeys(channel, pressed)}
                  onPress={ask}
                />
              </>
            )}
          </div>
        )}
        {trouble && (
          <p role="alert" className="mt-1 max-w-[240px] text-left text-note text-wrong">
            {trouble}
          </p>
        )}
      </td>
    </tr>
  );
});

function IsCell({ channel, now }: { channel: ChannelView; now: number }) {
  const { observed, commanded, agreement, offAt, concerns, claimed } = channel;
  const known = isKnownNow(channel);
  const age = ageWords(channel, now);
  const differs = commanded !== null && agreement !== "agreed" && commanded.value !== observed?.value;
  const changed = changedByItself(channel);
  // Changed at the wall is news, not a fault: only what nobody explains is shown as wrong.
  const explained = agreement === "pending" || observed === null || causeWords(observed.cause) !== null;
  return (
    <div className="flex items-center gap-2.5">
      {!countsNumbers(kindOf(channel.kind)) && (
        <Lamp on={known ? (observed?.on ?? null) : null} colours={coloursIn(observed?.value)} />
      )}
      <div className="leading-[18px]">
        <span className={known || observed === null ? "font-medium" : "text-soft"}>
          {observed ? capital(observed.text) : "Unknown"}
        </span>
        {age !== null && <p className="max-w-[220px] text-note text-soft">{capital(age)}</p>}
        {changed !== null && (
          <p className="text-note text-soft">
            {capital(changed)}
            {observed && `, ${formatAgo(now - Date.parse(observed.at))}`}
          </p>
        )}
        {claimed !== null && claimed !== observed?.text && (
          <p className="text-note text-soft">The device reports: {claimed}</p>
        )}
        {differs && (
          <p className={`text-note ${explained ? "text-soft" : "text-wrong"}`}>Commanded: {commanded.text}</p>
        )}
        {offAt && <p className="text-note text-soft">Off at {when.clock(offAt)}</p>}
        {concerns.map((concern) => (
          <p key={concern.kind} className="max-w-[220px] text-note text-wrong">
            {concern.text}
          </p>
        ))}
      </div>
    </div>
  );
}

function CommandCell({ command, site }: { command: CommandView; site: string }) {
  const { end, after } = command;
  const stopped = end !== null && end !== "delivered";
  const replaced = end === "replaced" || end === "overtaken";
  return (
    <Link
      to={`/board/${site}/trace/${command.requestId}`}
      className="group -my-1 inline-flex items-center gap-2.5 rounded-key py-1 pr-1 md:max-[960px]:flex-col md:max-[960px]:items-start md:max-[960px]:gap-0"
    >
      <span className="sr-only">
        Trace of the last command to {command.channelName}, {command.room}:
      </span>
      <StageTrack command={command} />
      <span
        className={`whitespace-nowrap text-note group-hover:underline ${stopped && !replaced ? "text-wrong" : "text-soft"}`}
      >
        {end === null ? "open" : stopped ? end : after.ended === null ? "" : formatDuration(after.ended)}
      </span>
    </Link>
  );
}

/** What changed it, where that was no command and came after the last one: "by hand". It belongs to the state: nobody requested it. */
function changedByItself({ observed, commanded }: ChannelView): string | null {
  // What is not known now says why instead.
  if (observed === null || observed.stale !== null || observed.cause === "retained") return null;
  const isLater = commanded === null || Date.parse(observed.at) > Date.parse(commanded.at);
  return isLater ? causeWords(observed.cause) : null;
}

/** Who requested the last command. */
function ByCell({ channel: { commanded }, now }: { channel: ChannelView; now: number }) {
  if (!commanded) return null;
  const ago = formatAgo(now - Date.parse(commanded.at));
  const { requester, asker, inlet } = commanded;
  return <Who who={requesterText(requester, asker, inlet)} when={ago} />;
}

function Who({ who, when }: { who: string; when: string }) {
  return (
    <>
      <p className="truncate" title={who}>
        {who}
      </p>
      <p className="truncate text-soft">{when}</p>
    </>
  );
}
