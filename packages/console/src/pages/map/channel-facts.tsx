/** Of one channel: where its commands go, and what stands in the way of a request now. */
import type { MapReachPageView } from "@bold-relay/api";
import { Link } from "wouter";
import { Plate } from "../../parts/plate.tsx";
import { usesText } from "./uses-text.ts";

type Channel = NonNullable<MapReachPageView["channel"]>;

export function ChannelFacts({ channel, days }: { channel: Channel; days: number }) {
  const { address, name, topic, obstacles, others } = channel;
  return (
    <section aria-label="Channel" className="mt-4">
      <p className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <Plate name={name} />
        <span className="text-note text-soft">
          Commands go to <span className="break-all font-mono">{topic}</span>
        </span>
        <Link to={`/history/${address}`} className="text-act text-note hover:underline print:hidden">
          History
        </Link>
      </p>
      {obstacles.length === 0 ? (
        <p className="mt-2 text-soft">No lock-out, no interlock and no offline device stands in the way now.</p>
      ) : (
        <ul className="mt-2 border-wrong border-l-[3px] px-3">
          {obstacles.map((text) => (
            <li key={text} className="font-medium text-wrong">
              {text}
            </li>
          ))}
        </ul>
      )}
      {others.map(({ way, ...use }) => (
        <p key={way} className="mt-1 text-note text-soft">
          Also in {days} days: {way}, {usesText(use)}.
        </p>
      ))}
    </section>
  );
}
