/** What a notification has told, newest first, and what has not got through. */
import type { NotificationDeliveryView } from "@bold-relay/api";
import { formatAgo } from "@bold-relay/core";
import { useNotificationLog } from "../../api/queries.ts";
import { useNow } from "../../live/use-now.ts";
import { TableHead } from "../../parts/table-head.tsx";

export function NotificationLog({ slug }: { slug: string }) {
  const { data: log, error } = useNotificationLog(slug);
  const now = useNow();
  if (error) return <p className="mt-2 text-note text-wrong">{error.message}</p>;
  if (!log) return null;
  if (log.length === 0) return <p className="mt-2 text-note text-soft">Nothing sent yet.</p>;
  return (
    <table className="mt-3 w-full text-left text-note">
      <TableHead titles={["Time", "Event", "Subject", "Delivered"]} />
      <tbody>
        {log.map((delivery) => {
          const { type = "", subject = "" } = delivery.event as { type?: string; subject?: string };
          return (
            <tr key={delivery.id} className="border-hairline border-b align-baseline">
              <td className="whitespace-nowrap py-1.5 pr-4">{formatAgo(now - Date.parse(delivery.at))}</td>
              <td className="py-1.5 pr-4">{type.replace(/^bold-relay\./, "")}</td>
              <td className="break-all py-1.5 pr-4 font-mono">{subject}</td>
              <td className="py-1.5">
                <Progress delivery={delivery} now={now} />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Progress({
  delivery: { deliveredAt, nextAt, tries, trouble },
  now,
}: {
  delivery: NotificationDeliveryView;
  now: number;
}) {
  if (deliveredAt !== null) return <>{tries > 1 ? `yes, at the ${tries}. try` : "yes"}</>;
  if (nextAt === null) return <strong className="font-semibold text-wrong">given up: {trouble}</strong>;
  if (tries === 0) return <>on its way</>;
  const inMs = Date.parse(nextAt) - now;
  const again = inMs > 0 ? `in ${Math.ceil(inMs / 1_000)} s` : "now";
  return (
    <span className="text-wrong">
      {trouble} Tried {tries} times, again {again}.
    </span>
  );
}
