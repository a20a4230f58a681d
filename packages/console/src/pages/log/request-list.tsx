/** The rows of the journal. Only those near the window are drawn, however many were read. */
import { answerText, type CommandView, type RequestView, reachedText } from "@bold-relay/api";
import { formatDuration, outcomeWords, requesterText } from "@bold-relay/core";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { Link, useSearchParams } from "wouter";
import { Plate } from "../../parts/plate.tsx";
import { StageTrack } from "../../parts/stage-track.tsx";
import { when } from "../../parts/time.ts";

interface RequestListProps {
  readonly requests: readonly RequestView[];
  readonly traced: string | undefined;
  readonly pathOf: (request: string) => string;
  /** The end of what was read comes near. */
  readonly onEnd: () => void;
}

const ROW = "grid items-center gap-x-3";
const COLUMNS = {
  wide: "grid-cols-[122px_minmax(150px,1fr)_minmax(0,1.15fr)_196px_minmax(0,1.25fr)]",
  /** Beside a trace, which has the answer in full. */
  beside: "grid-cols-[122px_minmax(110px,0.8fr)_minmax(0,1fr)_200px]",
};
const NARROW = "max-md:grid-cols-[116px_minmax(0,1fr)] max-md:gap-y-1 max-md:py-2";
const ROW_PX = 46;

export function RequestList({ requests, traced, pathOf, onEnd }: RequestListProps) {
  const list = useRef<HTMLTableSectionElement>(null);
  const virtual = useWindowVirtualizer({
    count: requests.length,
    estimateSize: () => ROW_PX,
    overscan: 12,
    scrollMargin: list.current?.offsetTop ?? 0,
    getItemKey: (index) => requests[index]?.id ?? index,
  });
  const columns = `${ROW} ${traced ? COLUMNS.beside : COLUMNS.wide}`;
  const titles = ["Time", "Requested by", "Request", "Progress", ...(traced ? [] : ["Result"])];
  const rows = virtual.getVirtualItems();
  const last = rows.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last >= requests.length - 20) onEnd();
  }, [last, requests.length, onEnd]);
  return (
    <table role="table" aria-label="Log" aria-rowcount={requests.length} className="mt-3 block">
      <thead role="rowgroup" className="block max-md:sr-only">
        <tr role="row" className={`${columns} border-ink border-b pb-1.5 text-left font-plate text-note text-soft`}>
          {titles.map((title) => (
            <th key={title} role="columnheader" scope="col" className="pl-2 font-medium">
              {title}
            </th>
          ))}
        </tr>
      </thead>
      <tbody role="rowgroup" ref={list} className="relative block" style={{ height: virtual.getTotalSize() }}>
        {rows.map(({ index, key, start }) => {
          const request = requests[index];
          if (!request) return null;
          return (
            <tr
              key={key}
              role="row"
              data-index={index}
              data-request={request.id}
              ref={virtual.measureElement}
              className={`${columns} ${NARROW} absolute inset-x-0 min-h-[46px] border-hairline border-b ${request.id === traced ? "bg-act-wash" : ""}`}
              style={{ transform: `translateY(${start - virtual.options.scrollMargin}px)` }}
            >
              <RequestCells request={request} path={pathOf(request.id)} withAnswer={!traced} />
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

interface RequestCellsProps {
  readonly request: RequestView;
  readonly path: string;
  readonly withAnswer: boolean;
}

function RequestCells({ request, path, withAnswer }: RequestCellsProps) {
  return (
    <>
      <Cell className="whitespace-nowrap text-note text-soft">{when.clock(request.at)}</Cell>
      <Cell className="text-note leading-[17px]">
        <FilterLink name="asker" value={request.asker} lines>
          {requesterText(request.requester, request.asker, request.inlet)}
        </FilterLink>
        {request.requester === "member" && <p className="truncate text-soft">{request.inlet}</p>}
      </Cell>
      <Cell className="max-md:col-span-2">
        <Asked request={request} />
      </Cell>
      <Cell className="max-md:col-span-2">
        <Got request={request} path={path} />
      </Cell>
      {withAnswer && (
        <Cell className="text-note text-soft leading-[17px] max-md:col-span-2">
          <span title={answerText(request)} className="line-clamp-2">
            {resultText(request)}
          </span>
        </Cell>
      )}
    </>
  );
}

function Cell({ className, children }: { className?: string; children: React.ReactNode }) {
  return (
    <td role="cell" className={`min-w-0 pl-2 ${className ?? ""}`}>
      {children}
    </td>
  );
}

function Asked({ request }: { request: RequestView }) {
  const [command] = request.commands;
  if (!command || request.commands.length > 1) {
    return (
      <p className="truncate">
        “{request.target}” {request.action !== "say" && <span className="font-medium">{request.action}</span>}
      </p>
    );
  }
  return (
    <div className="flex min-w-0 items-center gap-2">
      <FilterLink name="channel" value={command.channel}>
        <Plate name={command.channelName} />
      </FilterLink>
      <span className="truncate text-note text-soft">{command.room}</span>
      <span className="font-medium">{command.toText}</span>
    </div>
  );
}

function Got({ request, path }: { request: RequestView; path: string }) {
  const [command] = request.commands;
  return (
    <Link to={path} className="group inline-flex items-center gap-2.5 rounded-key py-1 pr-1">
      <span className="sr-only">Trace:</span>
      {command && request.commands.length === 1 && <StageTrack command={command} />}
      <span
        className={`whitespace-nowrap text-note group-hover:underline ${isWrong(request) ? "text-wrong" : "text-soft"}`}
      >
        {command ? endWords(request, command) : outcomeWords(request.outcome)}
      </span>
    </Link>
  );
}

/** Pressing a name narrows the list to it. */
function FilterLink({
  name,
  value,
  lines = false,
  children,
}: {
  name: "asker" | "channel";
  value: string;
  /** Whether it may go over two lines; else it is cut off. */
  lines?: boolean;
  children?: React.ReactNode;
}) {
  const [params] = useSearchParams();
  const narrowed = new URLSearchParams(params);
  narrowed.set(name, value);
  return (
    <Link
      to={`/log?${narrowed}`}
      title={`Filter by ${value}`}
      className={`min-w-0 hover:underline ${lines ? "line-clamp-2" : "block truncate"}`}
    >
      {children ?? value}
    </Link>
  );
}

/** What was delivered needs no explanation: the trace has it. */
function resultText(request: RequestView): string {
  const [only] = request.commands;
  return request.outcome === "delivered" && only && request.commands.length === 1
    ? only.verdict.headline
    : answerText(request);
}

function endWords(request: RequestView, { end, after }: CommandView): string {
  if (request.commands.length > 1) return `${reachedText(request)} done`;
  if (end === null) return "open";
  return end === "delivered" && after.ended !== null ? formatDuration(after.ended) : end;
}

function isWrong({ outcome }: RequestView): boolean {
  return (
    outcome === "not-delivered" ||
    outcome === "partly-delivered" ||
    outcome === "refused" ||
    outcome === "not-understood"
  );
}
