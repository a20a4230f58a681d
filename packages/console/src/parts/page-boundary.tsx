/** Stands around pages: what cannot be fetched or drawn says so, instead of an empty window. */
import { Component, type ReactNode } from "react";
import { Button } from "./button.tsx";

interface PageBoundaryProps {
  readonly children: ReactNode;
  /** Another page clears the failure: its address, say. */
  readonly page?: string;
}

interface PageBoundaryState {
  readonly error: Error | null;
  readonly page: string | undefined;
}

export class PageBoundary extends Component<PageBoundaryProps, PageBoundaryState> {
  override state: PageBoundaryState = { error: null, page: this.props.page };

  static getDerivedStateFromError(error: Error): Partial<PageBoundaryState> {
    return { error };
  }

  static getDerivedStateFromProps({ page }: PageBoundaryProps, state: PageBoundaryState): Partial<PageBoundaryState> {
    return page === state.page ? {} : { error: null, page };
  }

  override render() {
    if (this.state.error === null) return this.props.children;
    return (
      <div role="alert" className="max-w-[560px] px-5 pt-5">
        <h1 className="text-page">This page cannot be shown</h1>
        <p className="mt-2 text-soft">
          The browser reports: {this.state.error.message}. If the connection was lost or the service was updated, reload
          the page. Requests that were sent are in the log.
        </p>
        <Button
          onClick={() => location.reload()}
          className="mt-3 h-8 rounded-key border border-soft px-3 font-semibold text-note hover:border-act hover:text-act"
        >
          Reload page
        </Button>
      </div>
    );
  }
}
