/** The map on a phone: a line for each thing that can happen, which opens. */
import type { MapReachView } from "@bold-relay/api";
import { SectionTitle } from "../../parts/form.tsx";
import { Askers, Channels, Choose, ReachFoot, type ReachProps } from "./reach-table.tsx";
import { usesText } from "./uses-text.ts";

export function ReachList({ page, onChoose }: ReachProps) {
  const { rows, channel } = page;
  const title = channel ? "Everything that can switch it" : "What reaches what";
  if (rows.length === 0) return null;
  return (
    <section aria-label={title}>
      <SectionTitle>{title}</SectionTitle>
      <ul className="border-rule border-t">
        {rows.map((row, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a catch may reach the same twice, by different actions
          <li key={`${row.caught.id} ${row.target.id} ${row.action} ${index}`} className="border-hairline border-b">
            <details>
              <summary className="-indent-4 cursor-pointer py-2.5 pl-4 leading-[19px]">
                <span className="font-medium">{row.caught.name}</span>
                {row.caught.paused && <span className="font-semibold text-wrong"> paused</span>}
                <span className="text-soft">
                  {" "}
                  → {channel && row.target.kind === "channel" ? "directly" : row.target.name}
                </span>
                {row.action !== null && <span className="font-medium"> {row.action}</span>}
              </summary>
              <Facts row={row} onChoose={onChoose} />
            </details>
          </li>
        ))}
      </ul>
      <ReachFoot page={page} />
    </section>
  );
}

function Facts({ row, onChoose }: { row: MapReachView; onChoose: (id: string) => void }) {
  const { caught, target, action, used } = row;
  return (
    <dl className="grid grid-cols-[104px_minmax(0,1fr)] gap-x-3 gap-y-1.5 pb-3 pl-4 text-note">
      <dt className="text-soft">Requested by</dt>
      <dd>
        <Askers row={row} onChoose={onChoose} />
      </dd>
      <dt className="text-soft">Caught by</dt>
      <dd>
        <Choose id={caught.id} name={caught.name} onChoose={onChoose} />
        {caught.note !== "" && <span className="block text-soft">{caught.note}</span>}
      </dd>
      <dt className="text-soft">Action</dt>
      <dd>{action ?? "as requested"}</dd>
      <dt className="text-soft">Reaches</dt>
      <dd>
        <Choose id={target.id} name={target.name} onChoose={onChoose} />
        {target.kind !== "channel" && <Channels row={row} />}
      </dd>
      <dt className="text-soft">Used</dt>
      <dd>{used === null ? "not counted apart" : usesText(used)}</dd>
    </dl>
  );
}
