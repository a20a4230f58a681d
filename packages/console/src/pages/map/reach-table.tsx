/** The map as a table: a row for each thing that can happen. */
import type { MapReachPageView, MapReachView } from "@bold-relay/api";
import { Button } from "../../parts/button.tsx";
import { SectionTitle } from "../../parts/form.tsx";
import { TableHead } from "../../parts/table-head.tsx";
import { when } from "../../parts/time.ts";
import { usesText } from "./uses-text.ts";

export interface ReachProps {
  readonly page: MapReachPageView;
  readonly onChoose: (id: string) => void;
}

/** So many stand in a cell. */
const MOST_NAMED = 4;

export function ReachTable({ page, onChoose }: ReachProps) {
  const { rows, channel } = page;
  const title = channel ? "Everything that can switch it" : "What reaches what";
  if (rows.length === 0) return null;
  return (
    <section aria-label={title}>
      <SectionTitle>{title}</SectionTitle>
      <p className="text-note text-soft lg:hidden">Scroll sideways to see all columns.</p>
      <div className="overflow-x-auto">
        <table className="w-full min-w-[860px] text-left print:min-w-0 text-note">
          <TableHead titles={["Requested by", "Caught by", "Action", channel ? "Through" : "Reaches", "Used"]} />
          <tbody>
            {rows.map((row, index) => (
              <Row
                // biome-ignore lint/suspicious/noArrayIndexKey: a catch may reach the same twice, by different actions
                key={`${row.caught.id} ${row.target.id} ${row.action} ${index}`}
                row={row}
                ofChannel={channel !== null}
                onChoose={onChoose}
              />
            ))}
          </tbody>
        </table>
      </div>
      <ReachFoot page={page} />
    </section>
  );
}

/** What is not shown, and since when uses are counted. */
export function ReachFoot({ page: { moreRows, days, countedSince } }: Pick<ReachProps, "page">) {
  return (
    <>
      {moreRows > 0 && (
        <p className="mt-2 text-note">And {moreRows} more. Choose an element or a site, or export the table as CSV.</p>
      )}
      <p className="mt-2 text-note text-soft">
        Uses are of the last {days} days. They are counted since {when.dateTime(countedSince)}. What a person does at
        the device itself is not listed.
      </p>
    </>
  );
}

function Row({ row, ofChannel, onChoose }: { row: MapReachView; ofChannel: boolean; onChoose: (id: string) => void }) {
  const { caught, target, action, used } = row;
  return (
    <tr className="border-hairline border-b align-top">
      <td className="py-1.5 pr-4">
        <Askers row={row} onChoose={onChoose} />
      </td>
      <td className="py-1.5 pr-4">
        <Choose id={caught.id} name={caught.name} onChoose={onChoose} />
        {caught.paused && <span className="font-semibold text-wrong"> paused</span>}
        {caught.note !== "" && <span className="block text-soft">{caught.note}</span>}
      </td>
      <td className="py-1.5 pr-4">{action ?? <span className="text-soft">as requested</span>}</td>
      <td className="py-1.5 pr-4">
        {target.kind === "channel" && ofChannel ? (
          <span className="text-soft">directly</span>
        ) : (
          <>
            <Choose id={target.id} name={target.name} onChoose={onChoose} />
            {target.kind !== "channel" && !ofChannel && <Channels row={row} />}
          </>
        )}
      </td>
      <td className="py-1.5">
        {used === null ? <span className="text-soft">not counted apart</span> : usesText(used)}
      </td>
    </tr>
  );
}

export function Channels({ row: { channels, moreChannels } }: { row: MapReachView }) {
  const count = channels.length + moreChannels;
  const named = channels.slice(0, MOST_NAMED).map(({ name }) => name);
  const more = count - named.length;
  return (
    <span className="block text-soft">
      {named.join("; ")}
      {more > 0 && ` and ${more} more`}
    </span>
  );
}

export function Askers({ row, onChoose }: { row: MapReachView; onChoose: (id: string) => void }) {
  const { askers, moreAskers } = row;
  if (askers.length === 0) return <span className="font-semibold text-wrong">nobody</span>;
  const named = askers.slice(0, MOST_NAMED);
  const more = askers.length + moreAskers - named.length;
  return (
    <>
      {named.map(({ id, name, note, anybody }) => (
        <span key={id} className="block">
          <Choose id={id} name={name} onChoose={onChoose} />
          {anybody && <span className="font-semibold text-wrong"> anyone</span>}
          {note !== "" && <span className="text-soft">, {note}</span>}
        </span>
      ))}
      {more > 0 && <span className="block text-soft">and {more} more</span>}
    </>
  );
}

export function Choose({ id, name, onChoose }: { id: string; name: string; onChoose: (id: string) => void }) {
  return (
    <Button onClick={() => onChoose(id)} className="text-left text-act underline-offset-2 hover:underline">
      {name}
    </Button>
  );
}
