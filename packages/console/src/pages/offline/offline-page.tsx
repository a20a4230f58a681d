/** The console without the service: what was known last, as what was. Nothing can be switched here, and nothing is kept for later. */
import { formatDuration } from "@bold-relay/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { names } from "../../api/operate.ts";
import { type LastBoard, readLastBoard } from "../../live/last-board.ts";
import { useNow } from "../../live/use-now.ts";
import { Button } from "../../parts/button.tsx";
import { Lamp } from "../../parts/lamp.tsx";
import { ProductSign } from "../../parts/product-sign.tsx";
import { when } from "../../parts/time.ts";

export function OfflinePage() {
  const queries = useQueryClient();
  const { data: last } = useQuery({ queryKey: ["last-board"], queryFn: readLastBoard });
  return (
    <main className="mx-auto max-w-[720px] px-4 pt-6 pb-10">
      <ProductSign />
      <h1 className="mt-6 text-page">No connection to the service</h1>
      <p className="mt-2">
        {location.host} does not answer. Nothing can be switched from here, and no request is kept for later. The page
        tries again every 5 s.
      </p>
      <Button
        onClick={() => void queries.refetchQueries({ queryKey: names.session })}
        className="mt-3 h-9 rounded-key border border-soft px-4 font-semibold hover:border-act hover:text-act"
      >
        Try again
      </Button>
      {last === null && <p className="mt-6 text-soft">No states are stored on this device.</p>}
      {last && <LastStates last={last} />}
    </main>
  );
}

function LastStates({ last }: { last: LastBoard }) {
  const now = useNow();
  return (
    <>
      <p role="status" className="mt-6 border-wrong border-l-[3px] bg-wrong-wash px-3 py-2">
        <strong className="font-semibold">These states are {formatDuration(now - last.at)} old.</strong> {last.member}{" "}
        saw them here at {when.clock(last.at)}. What is so now is unknown.
      </p>
      {last.sites.map(({ name, channels }) => (
        <section key={name} className="mt-5">
          <h2 className="border-ink border-b pb-1 text-title">{name}</h2>
          <ul>
            {channels.map((channel) => (
              <li
                key={channel.address}
                className="grid grid-cols-[28px_minmax(0,1fr)_28px_minmax(0,110px)] items-center gap-2 border-hairline border-b py-1.5"
              >
                <span className="text-right text-soft">{channel.number}</span>
                <span className="truncate">
                  <span className="font-plate font-semibold">{channel.name}</span>{" "}
                  <span className="text-note text-soft">{channel.room}</span>
                </span>
                <Lamp on={null} />
                <span className="truncate text-note text-soft">
                  {channel.state === null ? "was unknown" : `was ${channel.state}`}
                </span>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}
