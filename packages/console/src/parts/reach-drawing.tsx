/**
 * What a change takes from the map and gives to it, drawn before it is saved: who catches on the left, channels on the right, a cross on each line
 * that would go and a plus on each that would come. Words for it stand beside; see `ReachChanges`.
 */
import type { ReachChange } from "@bold-relay/core";

/** Beyond these a drawing tells nobody anything; the words go on. */
const [MOST_CATCHES, MOST_CHANNELS] = [10, 14];
/** px */
const ROW = 30;
/** Of the drawing's width, %. */
const WIDTH = 38;

/** Where a line has its mark: at four fifths of its curve, where it is nearly at its channel and alone. x in %, y as shares of both ends. */
const MARK = { x: 56, from: 0.104, to: 0.896 };

interface Line {
  readonly key: string;
  readonly from: number;
  readonly to: number;
  readonly isLost: boolean;
}

export function ReachDrawing({ reach }: { reach: readonly ReachChange[] }) {
  const shown = reach.slice(0, MOST_CATCHES);
  const channels = [...new Set(shown.flatMap(({ lost, gained }) => [...lost, ...gained]))].slice(0, MOST_CHANNELS);
  if (channels.length === 0) return null;
  const height = Math.max(shown.length, channels.length) * ROW;
  const catchY = placesOf(shown.length, height);
  const channelY = placesOf(channels.length, height);
  const lines = shown.flatMap(({ element, lost, gained }, at) =>
    [...lost.map((one) => [one, true] as const), ...gained.map((one) => [one, false] as const)].flatMap(
      ([address, isLost]): Line[] => {
        const place = channels.indexOf(address);
        if (place < 0) return [];
        return [{ key: `${element} ${address}`, from: catchY(at), to: channelY(place), isLost }];
      },
    ),
  );
  return (
    <div aria-hidden="true" className="relative mt-3 mb-2 text-note print:hidden" style={{ height }}>
      <svg
        aria-hidden="true"
        viewBox={`0 0 100 ${height}`}
        preserveAspectRatio="none"
        className="absolute inset-0 h-full w-full"
      >
        {lines.map(({ key, from, to, isLost }) => (
          <path
            key={key}
            d={`M${WIDTH} ${from} C50 ${from} 50 ${to} ${100 - WIDTH} ${to}`}
            vectorEffect="non-scaling-stroke"
            strokeWidth="1.5"
            strokeDasharray={isLost ? "4 4" : undefined}
            className={`fill-none ${isLost ? "stroke-wrong" : "stroke-act"}`}
          />
        ))}
      </svg>
      {lines.map(({ key, from, to, isLost }) => (
        <span
          key={key}
          style={{ top: MARK.from * from + MARK.to * to, left: `${MARK.x}%` }}
          className={`-translate-x-1/2 -translate-y-1/2 absolute bg-enclosure px-0.5 font-semibold leading-none ${isLost ? "text-wrong" : "text-act"}`}
        >
          {isLost ? "✕" : "+"}
        </span>
      ))}
      {shown.map(({ element, name }, at) => (
        <Label key={element} text={name} top={catchY(at)} side="left" />
      ))}
      {channels.map((address, at) => (
        <Label key={address} text={address} top={channelY(at)} side="right" />
      ))}
    </div>
  );
}

/** So many rows, in the middle of the height. */
function placesOf(count: number, height: number): (at: number) => number {
  return (at) => (height - count * ROW) / 2 + at * ROW + ROW / 2;
}

function Label({ text, top, side }: { text: string; top: number; side: "left" | "right" }) {
  const look =
    side === "left" ? "left-0 rounded-key border border-rule bg-sheet" : "right-0 rounded-plate bg-plate text-letters";
  return (
    <span
      title={text}
      style={{ top, width: `${WIDTH}%` }}
      className={`-translate-y-1/2 absolute truncate px-2 py-0.5 font-plate font-semibold ${look}`}
    >
      {text}
    </span>
  );
}
