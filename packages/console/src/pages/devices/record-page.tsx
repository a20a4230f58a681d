/** The record of a commissioning, to print and hand over, or to keep as a file. */
import type { CommissioningView, DeviceView } from "@bold-relay/api";
import { stepsBefore } from "@bold-relay/core";
import { Link, useParams } from "wouter";
import { useCommissionings, useDevices } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, STRONG } from "../../parts/form.tsx";
import { TableHead } from "../../parts/table-head.tsx";
import { when } from "../../parts/time.ts";
import { SIGNS, summary, WORDS } from "./commissioning.tsx";

export function RecordPage() {
  const { site, device: slug } = useParams();
  const address = `${site}/${slug}`;
  const { data: devices } = useDevices();
  const { data: runs } = useCommissionings(address);
  const device = devices?.find((one) => one.address === address);
  const [run, ...before] = runs ?? [];
  if (!device || !runs) return null;
  return (
    <div className="max-w-[860px] px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3 print:max-w-none print:p-0">
      <p className="print:hidden">
        <Link to={`/devices/${address}`} className={QUIET}>
          {device.name}
        </Link>
      </p>
      <h1 className="text-page">Commissioning record</h1>
      {run ? (
        <Record device={device} run={run} before={before.find(({ finishedAt }) => finishedAt !== null) ?? null} />
      ) : (
        <p className="mt-3 text-soft">Not commissioned.</p>
      )}
    </div>
  );
}

interface RecordProps {
  readonly device: DeviceView;
  readonly run: CommissioningView;
  readonly before: CommissioningView | null;
}

function Record({ device, run, before }: RecordProps) {
  const was = stepsBefore(run.steps, before?.steps ?? []);
  const facts = [
    ["Device", `${device.name} (${device.address})`],
    ["Site, room", `${device.site.name}, ${device.room.name}`],
    ["Profile", device.profile.name],
    ["Commissioned by", run.startedBy],
    ["Started", when.dateTime(run.startedAt)],
    ["Finished", finishedWords(run)],
    ["Result", summary(run)],
    ["Compared with", before ? `the record of ${when.dateTime(before.startedAt)}` : "no earlier record"],
  ];
  return (
    <>
      <p className="mt-3 flex gap-4 print:hidden">
        <Button onClick={() => window.print()} className={STRONG}>
          Print
        </Button>
        <a
          href={`data:application/json;charset=utf-8,${encodeURIComponent(JSON.stringify({ device, run, before }, null, 2))}`}
          download={`commissioning-${device.address.replace("/", "-")}.json`}
          className={`${QUIET} self-center`}
        >
          Download as JSON
        </a>
      </p>
      <dl className="mt-5 grid grid-cols-[140px_minmax(0,1fr)] gap-x-4 gap-y-1">
        {facts.map(([name, text]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd>{text}</dd>
          </div>
        ))}
      </dl>
      <table className="mt-6 w-full text-left text-note">
        <TableHead titles={["Step", "Result", "Observation", "Time"]} />
        <tbody>
          {run.steps.map(({ name, title, state, text, tryThis, by, at }) => (
            <tr key={name} className="break-inside-avoid border-hairline border-b align-baseline">
              <td className="py-1.5 pr-4 font-medium">{title}</td>
              <td className={`whitespace-nowrap py-1.5 pr-4 ${state === "failed" ? "font-semibold text-wrong" : ""}`}>
                {SIGNS[state]} {WORDS[state] || "not started"}
                {was[name] && <span className="block font-normal text-soft">last time {WORDS[was[name]]}</span>}
              </td>
              <td className="py-1.5 pr-4">
                {text ?? ""}
                {by !== null && <span className="text-soft"> Answered by {by}.</span>}
                {tryThis !== null && <span className="block">Try: {tryThis}</span>}
              </td>
              <td className="whitespace-nowrap py-1.5">{at === null ? "" : when.clock(at)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-10 hidden gap-10 text-note print:flex">
        <span className="flex-1 border-ink border-t pt-1">Date, engineer</span>
        <span className="flex-1 border-ink border-t pt-1">Date, client</span>
      </p>
    </>
  );
}

function finishedWords({ finishedAt, interrupted }: CommissioningView): string {
  if (finishedAt !== null) return when.dateTime(finishedAt);
  return interrupted ? "no: it was interrupted" : "not yet";
}
