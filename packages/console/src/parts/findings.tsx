/** What a check found in a description, and what saving it would change. */
import { type AuditChange, type Finding, type ReachChange, reachLines } from "@bold-relay/core";
import { ReachDrawing } from "./reach-drawing.tsx";

export function Findings({ findings }: { findings: readonly Finding[] }) {
  if (findings.length === 0) return <p className="mt-2 text-note text-soft">No problems found.</p>;
  return (
    <ul role="status" className="mt-2 text-note">
      {findings.slice(0, 12).map(({ level, at, text }) => (
        <li key={`${at} ${text}`} className={level === "wrong" ? "font-semibold text-wrong" : ""}>
          {level === "wrong" ? "Error" : "Warning"}: {!text.includes(at) && <span className="font-mono">{at} </span>}
          {text}
        </li>
      ))}
      {findings.length > 12 && <li>And {findings.length - 12} more.</li>}
    </ul>
  );
}

/** Most changes that are listed at once. */
const MOST_CHANGES = 12;

export function Changes({ changes }: { changes: readonly AuditChange[] }) {
  if (changes.length === 0) return <p className="mt-1 text-note text-soft">Saving would change nothing.</p>;
  return (
    <div className="mt-2 text-note">
      <p className="text-soft">Saving would change:</p>
      <ul>
        {changes.slice(0, MOST_CHANGES).map(({ place, from, to }) => (
          <li key={place} className="break-words">
            <span className="font-mono">{place}</span>{" "}
            <span className="text-soft">
              {from ?? "nothing"} → {to ?? "nothing"}
            </span>
          </li>
        ))}
        {changes.length > MOST_CHANGES && <li className="text-soft">And {changes.length - MOST_CHANGES} more.</li>}
      </ul>
    </div>
  );
}

/** Which route, inlet or rule would reach which channels no more, or now. */
export function ReachChanges({ reach }: { reach: readonly ReachChange[] }) {
  const lines = reach.flatMap(reachLines);
  if (lines.length === 0) return null;
  return (
    <>
      <ReachDrawing reach={reach} />
      <ul aria-label="Changed reach" className="mt-1 text-note">
        {lines.slice(0, MOST_CHANGES).map((line) => (
          <li key={line}>{line}</li>
        ))}
        {lines.length > MOST_CHANGES && <li className="text-soft">And {lines.length - MOST_CHANGES} more.</li>}
      </ul>
    </>
  );
}
