/** The hops of one command, top to bottom, each with its time, its words and its bytes. */
import type { CommandView, HopView } from "@bold-relay/api";
import { formatDuration, ignoredNote, READ, requesterText } from "@bold-relay/core";
import { Fragment } from "react";
import { capital } from "../../parts/words.ts";

interface HopLineProps {
  readonly command: CommandView;
  readonly hops: readonly HopView[];
}

/** The broker's receipt of a further attempt stands in that attempt's own line. */
function isRepeatedReceipt({ kind, attempt }: HopView): boolean {
  return kind === "published" && attempt !== undefined && attempt > 1;
}

function isReceiptOf(receipt: HopView, sent: HopView): boolean {
  return receipt.kind === "published" && sent.kind === "sent" && receipt.attempt === sent.attempt;
}

type Look = "proven" | "passing" | "stopped";

/** The line from a hop to the next: dotted where nothing after it was ever proven. */
type Below = "solid" | "dotted" | "none";

interface Entry {
  readonly title: string;
  readonly note: string;
  readonly look: Look;
}

export function HopLine({ command, hops }: HopLineProps) {
  // Completion needs no line of its own: the stage that completed it is there.
  const shown = hops.filter((hop) => !isRepeatedReceipt(hop) && (hop.kind !== "ended" || command.end !== "delivered"));
  return (
    <ol className="mt-5">
      <Hop
        afterMs={0}
        entry={{
          title: "Requested",
          note: requesterText(command.requester, command.asker, command.inlet),
          look: "proven",
        }}
        below="solid"
      />
      {shown.map((hop, index) => (
        <Hop
          // Hops are only ever appended, so their place is their identity.
          // biome-ignore lint/suspicious/noArrayIndexKey: see above
          key={index}
          afterMs={hop.afterMs}
          entry={entryOf(
            hop,
            command,
            hops.some((other) => isReceiptOf(other, hop)),
          )}
          // What is sent again is the same to the byte: it is shown once.
          wire={hop.kind === "sent" && hop.attempt !== 1 ? undefined : hop.wire}
          below={below(shown, index, command)}
        />
      ))}
    </ol>
  );
}

function below(hops: readonly HopView[], index: number, command: CommandView): Below {
  if (index === hops.length - 1) return "none";
  const provenLater = hops.slice(index + 1).some((hop) => entryOf(hop, command).look === "proven");
  return provenLater ? "solid" : "dotted";
}

interface HopProps {
  readonly afterMs: number;
  readonly entry: Entry;
  readonly wire?: HopView["wire"] | undefined;
  readonly below: Below;
}

function Hop({ afterMs, entry, wire, below }: HopProps) {
  return (
    <li className="grid grid-cols-[58px_22px_minmax(0,1fr)]">
      <span className="pt-px text-right text-note text-soft">{formatDuration(afterMs)}</span>
      <HopMark look={entry.look} below={below} />
      <div className="pb-3.5">
        <p className={`font-semibold ${entry.look === "stopped" ? "text-wrong" : ""}`}>{entry.title}</p>
        {entry.note && <p className="text-note text-soft">{entry.note}</p>}
        {wire && (
          <pre className="[overflow-wrap:anywhere] mt-1.5 whitespace-pre-wrap border border-rule bg-enclosure px-2 py-1.5 font-mono text-[12px] leading-[17px]">
            {wire.topic}
            {"\n"}
            <Payload text={shortened(wire.payload)} />
          </pre>
        )}
      </div>
    </li>
  );
}

const LINE: Record<Below, string> = {
  solid: "border-solid border-ink",
  dotted: "border-dotted border-soft",
  none: "hidden",
};

function HopMark({ look, below }: { look: Look; below: Below }) {
  return (
    <span className="relative flex justify-center">
      <span className={`absolute top-[11px] bottom-[-11px] border-l-2 ${LINE[below]}`} />
      <svg width="14" height="14" viewBox="0 0 14 14" className="relative mt-[4px]" aria-hidden="true">
        {look === "proven" && <circle cx="7" cy="7" r="5" fill="var(--color-ink)" />}
        {look === "passing" && (
          <circle cx="7" cy="7" r="4.2" fill="var(--color-sheet)" stroke="var(--color-ink)" strokeWidth="1.5" />
        )}
        {look === "stopped" && (
          <>
            <circle cx="7" cy="7" r="7" fill="var(--color-sheet)" />
            <path d="M2.5 2.5l9 9M2.5 11.5l9-9" stroke="var(--color-wrong)" strokeWidth="2" />
          </>
        )}
      </svg>
    </span>
  );
}

function entryOf(hop: HopView, command: CommandView, received = false): Entry {
  const nth = hop.attempt === undefined ? "" : `Attempt ${hop.attempt}`;
  switch (hop.kind) {
    case "accepted":
      return { title: "Accepted", note: `Stored in the database as command …${command.id.slice(-4)}`, look: "proven" };
    case "recovered":
      return { title: "Resumed", note: "The service restarted", look: "passing" };
    case "sent":
      return sentEntry(hop, nth, received);
    case "published":
      return { title: "Published", note: `${nth}, received by the broker`, look: "proven" };
    case "acknowledged":
      return {
        title: "Acknowledged",
        note: hop.code === undefined ? "The device acknowledged it" : `The device acknowledged it, code ${hop.code}`,
        look: "proven",
      };
    case "confirmed":
      return {
        title: hop.measured ? "Confirmed, measured" : "Confirmed",
        note: confirmedWords(hop, command),
        look: "proven",
      };
    case "unchanged":
      return {
        title: "No change",
        note: "The device reports changes only, and has reported this before",
        look: "passing",
      };
    case "ignored":
      return { title: "Ignored", note: hop.remark ? ignoredNote(hop.remark) : "", look: "passing" };
    case "refused":
      return {
        title: "Refused",
        note: hop.wire ? deviceWords(hop) : `By the broker, reason ${hop.code}`,
        look: "stopped",
      };
    case "doubted":
      return { title: "No answer", note: capital(hop.note ?? "it was passed on"), look: "stopped" };
    case "contradicted":
      return { title: "Contradicted", note: "The device reports another state", look: "stopped" };
    case "link-lost":
      return { title: "Link lost", note: "The connection to the broker was lost", look: "stopped" };
    case "locked-out":
      return { title: "Locked out", note: "Not sent again", look: "stopped" };
    case "sending":
      return { title: "About to be sent", note: "Stored first, because it is sent only once", look: "passing" };
    case "closed":
      return { title: "Cancelled", note: `By ${hop.note ?? "a person"}`, look: "stopped" };
    case "ended":
      return { title: capital(command.end ?? "ended"), note: effectOf(command), look: "stopped" };
  }
}

function sentEntry({ attempt, asked }: HopView, nth: string, received: boolean): Entry {
  const first = asked ? `${nth}, and a state query` : nth;
  if (attempt === 1) return { title: "Sent", note: first, look: "passing" };
  return { title: "Sent again", note: `${nth}, ${received ? "the broker has it" : "the same bytes"}`, look: "passing" };
}

function confirmedWords({ already, measured }: HopView, { to, toText, reported }: CommandView): string {
  if (measured) return `Another channel sees that it is ${toText}`;
  if (to === READ) return "The device says what it is";
  return already ? `The device had reported ${toText}` : `The device reports ${reported ?? toText}`;
}

function deviceWords({ code, note }: HopView): string {
  return `By the device, code ${code ?? "none"}${note ? `: ${note}` : ""}`;
}

function effectOf({ end, to }: CommandView): string {
  if (to === READ) return "";
  if (end === "unanswered" || end === "overtaken") return "It may or may not have switched";
  if (end === "replaced" || end === "expired") return "It never went out";
  return "";
}

/** Long payloads break after a comma where they can. */
function Payload({ text }: { text: string }) {
  return text.split(/(?<=,)/).map((part, index) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: the parts of one text never change places
    <Fragment key={index}>
      {part}
      <wbr />
    </Fragment>
  ));
}

/** A command's id is long and shown whole elsewhere: its end tells it apart. */
function shortened(payload: string): string {
  return payload.replace(/[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{8}([0-9a-f]{4})/g, "…$1");
}
