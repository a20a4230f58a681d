/** What is wider than the page scrolls in itself, also by keyboard (WCAG 2.1.1). */
import type { ReactNode } from "react";

interface Props {
  /** What is in it, for a screen reader. */
  readonly label: string;
  readonly children: ReactNode;
}

export function ScrollRegion({ label, children }: Props) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what does not fit is scrolled to by keyboard too
    <section className="overflow-x-auto" aria-label={label} tabIndex={0}>
      {children}
    </section>
  );
}
