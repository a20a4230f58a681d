/** What pages with forms share: fields, keys, troubles, secrets that are shown once. */

import { useState } from "react";
import { Button } from "./button.tsx";

export const FIELD = "h-9 rounded-key border border-soft bg-enclosure px-2.5";
export const STRONG = "h-9 rounded-key bg-act px-3 font-semibold text-letters text-note";
export const QUIET = "text-act text-note underline-offset-2 hover:underline";

/** A page of lists: it uses the width that there is, up to where lines are too long to follow. */
export const PAGE = "max-w-[1400px] px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3";

export function SectionTitle({ children }: { children: React.ReactNode }) {
  return <h2 className="mt-7 border-ink border-b pb-1.5 font-medium font-plate text-note text-soft">{children}</h2>;
}

export function Trouble({ children }: { children: string | null }) {
  if (children === null) return null;
  return (
    <p role="alert" className="mt-2 text-note text-wrong">
      {children}
    </p>
  );
}

/** A secret that is shown once: copied by hand, gone when it is closed. */
export function ShownOnce({ what, secret, onClose }: { what: string; secret: string; onClose: () => void }) {
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    await navigator.clipboard.writeText(secret);
    setCopied(true);
  };
  return (
    <div role="status" className="mt-3 border-act border-l-[3px] bg-act-wash px-4 py-3">
      <p>{what} (shown only once):</p>
      <p className="mt-1 break-all font-mono text-note">{secret}</p>
      <p className="mt-2 flex gap-4">
        <Button onClick={() => void copy()} className={QUIET}>
          {copied ? "Copied" : "Copy"}
        </Button>
        <Button onClick={onClose} className={QUIET}>
          Done
        </Button>
      </p>
    </div>
  );
}

interface TwiceProps {
  readonly verb: string;
  readonly sure: string;
  /** Told when it is asked the first time: what it would do can be looked up. */
  readonly onAsk?: () => void;
  readonly onSure: () => void;
}

/** Asks once more before something that many would not want to do by mistake. */
export function Twice({ verb, sure, onAsk = () => {}, onSure }: TwiceProps) {
  const [asked, setAsked] = useState(false);
  if (!asked) {
    return (
      <Button
        onClick={() => {
          setAsked(true);
          onAsk();
        }}
        className={QUIET}
      >
        {verb}
      </Button>
    );
  }
  return (
    <span className="flex gap-3">
      <Button onClick={onSure} className="font-semibold text-note text-wrong underline underline-offset-2">
        {sure}
      </Button>
      <Button onClick={() => setAsked(false)} className={QUIET}>
        Cancel
      </Button>
    </span>
  );
}
