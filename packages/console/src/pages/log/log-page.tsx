/** Log: what was asked, by whom, and how far it got. The journal, live at the top. */
import { queryText, type RequestView } from "@bold-relay/api";
import { useState } from "react";
import { Link, useLocation, useParams, useSearch } from "wouter";
import { useLog } from "../../api/queries.ts";
import { ensureRecent } from "../../api/sign-in-again.ts";
import { TracePanel } from "../trace/trace-panel.tsx";
import { FilterBar } from "./filter-bar.tsx";
import { type Filters, useFilters } from "./filters.ts";
import { RequestList } from "./request-list.tsx";

export function LogPage() {
  const { request } = useParams();
  const words = useSearch();
  const search = words && `?${words}`;
  const [, navigate] = useLocation();
  const [filters, change] = useFilters();
  const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useLog(filters);
  const requests: RequestView[] | undefined = data?.pages.flatMap((page) => page.requests);
  const pathOf = (id: string) => `/log/trace/${id}${search}`;
  return (
    <div className="flex">
      <div className="min-w-0 flex-1 px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
        <header className="flex flex-wrap items-baseline gap-x-4">
          <h1 className="text-page">Request log</h1>
          <p className="text-soft">Newest first</p>
          <p className="ml-auto text-note max-md:ml-0">
            Export <ExportLink form="csv" filters={filters} /> or <ExportLink form="jsonl" filters={filters} />
          </p>
        </header>
        <FilterBar filters={filters} onChange={change} />
        {error && (
          <p role="alert" className="mt-4 border-wrong border-l-[3px] bg-wrong-wash px-3 py-2">
            {error.message}
          </p>
        )}
        {requests?.length === 0 && <Nothing filters={filters} />}
        {requests && requests.length > 0 && (
          <RequestList
            requests={requests}
            traced={request}
            pathOf={pathOf}
            onEnd={() => hasNextPage && !isFetchingNextPage && void fetchNextPage()}
          />
        )}
      </div>
      {request && (
        <TracePanel key={request} request={request} pathOf={pathOf} onClose={() => navigate(`/log${search}`)} />
      )}
    </div>
  );
}

function ExportLink({ form, filters }: { form: "csv" | "jsonl"; filters: Filters }) {
  const href = `/api/v1/requests.${form}${queryText(filters)}`;
  const [trouble, setTrouble] = useState<string | null>(null);
  // A download tells a page nothing of a refusal: whether it may begin is found out before it.
  const begin = () =>
    ensureRecent().then(
      (isRecent) => isRecent && window.location.assign(href),
      (error: Error) => setTrouble(error.message),
    );
  if (trouble !== null) return <span role="alert">{trouble}</span>;
  return (
    <a
      href={href}
      download
      onClick={(event) => {
        event.preventDefault();
        void begin();
      }}
      className="text-act underline underline-offset-2"
    >
      {form === "csv" ? "CSV" : "JSON Lines"}
    </a>
  );
}

function Nothing({ filters }: { filters: Filters }) {
  const filtered = Object.keys(filters).length > 0;
  return (
    <p className="mt-6 max-w-[560px] text-soft">
      {filtered ? (
        <>
          No request matches these filters.{" "}
          {filters.words && "Text is searched in the last 24 hours; filters by channel and name reach further back. "}
          <Link to="/log" className="text-act underline">
            Clear filters
          </Link>
        </>
      ) : (
        <>
          No requests yet. Press a switch on the{" "}
          <Link to="/board" className="text-act underline">
            Board
          </Link>
          ; the request appears here.
        </>
      )}
    </p>
  );
}
