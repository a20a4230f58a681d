/** One tile of a panel: what it is, what it was told, how far that got, and the keys. */
import type { ChannelView, PanelItemView } from "@bold-relay/api";
import { coloursIn, countsNumbers, kindOf, RECALL } from "@bold-relay/core";
import { channelKeys } from "../pages/board/channel-keys.ts";
import { Setting } from "../pages/board/setting.tsx";
import type { Wish } from "../pages/board/use-ask.ts";
import { type Key, Keys } from "../parts/keys.tsx";
import { Lamp } from "../parts/lamp.tsx";
import { StageTrack } from "../parts/stage-track.tsx";
import { ageWords, capital, isKnownNow } from "../parts/words.ts";
import type { PanelClient } from "./use-panel.ts";
import { usePress } from "./use-press.ts";

type TileItem = Extract<PanelItemView, { is: "channel" | "group" | "scene" }>;

interface TileProps {
  readonly item: TileItem;
  readonly client: PanelClient;
  readonly isLive: boolean;
}

export function Tile({ item, client, isLive }: TileProps) {
  if (item.is === "channel") return <ChannelTile item={item} client={client} isLive={isLive} />;
  return <BundleTile item={item} client={client} isLive={isLive} />;
}

const TILE = "flex flex-col gap-3 border-rule border-b pt-4 pb-6";

function ChannelTile({ item, client, isLive }: TileProps & { item: Extract<TileItem, { is: "channel" }> }) {
  const { channel, name, actions } = item;
  const { pressed, trouble, press } = usePress(client, channel.address);
  const { lastCommand, lockout } = channel;
  const mayPress = actions.length > 0 && isLive && lockout === null;
  return (
    <li className={`${TILE} ${lockout ? "tape" : ""}`} data-item={item.place}>
      <State channel={channel} name={name} isPlate={actions.length > 0} />
      {lockout && <p className="font-semibold text-wrong">Locked out by {lockout.holder}</p>}
      <div className="mt-auto flex flex-col gap-3">
        {lastCommand && actions.length > 0 && (
          <p className="flex items-center gap-3 text-note text-soft">
            <StageTrack command={lastCommand} />
            <span
              role="status"
              className={lastCommand.end !== null && lastCommand.verdict.severity === "bad" ? "text-wrong" : ""}
            >
              {lastCommand.verdict.headline}
            </span>
          </p>
        )}
        {mayPress && (
          <>
            <div className="contents [&_input[type=color]]:h-14 [&_input]:h-12 [&_input]:w-full">
              <Setting channel={{ ...channel, name }} onSet={(wish) => void press(wish)} />
            </div>
            <Keys large name={name} keys={channelKeys(channel, pressed)} onPress={press} />
          </>
        )}
        <Trouble>{trouble}</Trouble>
      </div>
    </li>
  );
}

interface StateProps {
  readonly channel: ChannelView;
  readonly name: string;
  /** It can be switched here. */
  readonly isPlate: boolean;
}

function State({ channel, name, isPlate }: StateProps) {
  const { observed, commanded, agreement } = channel;
  const isCounted = countsNumbers(kindOf(channel.kind));
  const isKnown = isKnownNow(channel);
  const age = ageWords(channel, Date.now());
  const differs = commanded !== null && agreement !== "agreed" && commanded.value !== observed?.value;
  return (
    <div className="flex items-start gap-4">
      {!isCounted && (
        <span className="mt-2.5 ml-1.5 shrink-0 scale-150">
          <Lamp on={isKnown ? (observed?.on ?? null) : null} colours={coloursIn(observed?.value)} />
        </span>
      )}
      <div className="min-w-0">
        <TileName name={name} isPlate={isPlate} />
        <p className={`mt-1 ${isCounted ? "text-[38px] leading-[44px]" : "text-page"} ${isKnown ? "" : "text-soft"}`}>
          {observed ? capital(observed.text) : "Unknown"}
        </p>
        {age !== null && <p className="text-note text-soft">{capital(age)}</p>}
        {differs && <p className="text-body text-soft">Commanded: {commanded.text}</p>}
      </div>
    </div>
  );
}

function BundleTile({ item, client, isLive }: TileProps & { item: Extract<TileItem, { is: "group" | "scene" }> }) {
  const { name, actions, address } = item;
  const { pressed, trouble, became, press } = usePress(client, address);
  return (
    <li className={TILE} data-item={item.place}>
      <div>
        <TileName name={name} isPlate={false} />
        <p className="mt-1 text-page">{bundleState(item)}</p>
      </div>
      <div className="mt-auto flex flex-col gap-3">
        {pressed && <p className="text-note text-soft">Waiting for the outcome …</p>}
        {became && (
          <p role="status" className={`text-note ${became.isGood ? "text-soft" : "text-wrong"}`}>
            {capital(became.words)}.
          </p>
        )}
        {actions.length > 0 && isLive && <Keys large name={name} keys={bundleKeys(item, pressed)} onPress={press} />}
        <Trouble>{trouble}</Trouble>
      </div>
    </li>
  );
}

/** Engraved, where it means that this can switch something. */
function TileName({ name, isPlate }: { name: string; isPlate: boolean }) {
  const plate = isPlate ? "w-fit max-w-full rounded-plate bg-plate px-2.5 text-letters" : "";
  return <h3 className={`truncate py-0.5 text-title ${plate}`}>{name}</h3>;
}

function bundleState({ is, on, unknown, of }: Extract<TileItem, { is: "group" | "scene" }>): string {
  if (is === "scene") return `scene, ${of} channels`;
  return `${on} of ${of} on${unknown > 0 ? `, ${unknown} unknown` : ""}`;
}

function bundleKeys(
  { actions, on, unknown, of }: Extract<TileItem, { is: "group" | "scene" }>,
  pressed: Wish | null,
): Key<Wish>[] {
  const isNow = (action: string) =>
    action === "on" ? on === of && of > 0 : action === "off" ? on === 0 && unknown === 0 && of > 0 : null;
  // As on channels: off before on. Of several, toggle is a gamble.
  const order = actions.filter((action) => action !== "toggle").sort((one, other) => (one < other ? -1 : 1));
  return order.map((action) => ({
    label: action === RECALL ? "Switch scene" : capital(action),
    meaning: { action },
    is: isNow(action),
    asked: pressed?.action === action,
  }));
}

function Trouble({ children }: { children: string | null }) {
  if (children === null) return null;
  return (
    <p role="alert" className="text-body text-wrong">
      {children}
    </p>
  );
}
