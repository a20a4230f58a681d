/** What a changed site would change, and what speaks against it. */
import type { SitePlanView } from "@bold-relay/api";

export function SitePlan({ plan: { changes, findings } }: { plan: SitePlanView }) {
  return (
    <div role="status" className="text-note">
      <ul>
        {changes.map(({ what, name, change, fields }) => (
          <li key={`${what} ${name}`}>
            {change} {what} <span className="font-mono">{name}</span>
            {fields.length > 0 && <span className="text-soft">: {fields.map(({ field }) => field).join(", ")}</span>}
          </li>
        ))}
      </ul>
      <ul>
        {findings.map(({ level, at, text }) => (
          <li key={`${at} ${text}`} className={level === "wrong" ? "font-semibold text-wrong" : ""}>
            {level === "wrong" ? "Mistake" : "Doubtful"}: <span className="font-mono">{at}</span> {text}
          </li>
        ))}
      </ul>
      {changes.length === 0 && <p>Nothing would change.</p>}
      {findings.length === 0 && <p>Nothing speaks against it.</p>}
    </div>
  );
}
