/** What a changed site would change, and what speaks against it. */
import type { SitePlanView } from "@bold-relay/api";
import { Button } from "../../parts/button.tsx";
import { ReachChanges } from "../../parts/findings.tsx";
import { QUIET, STRONG, Trouble } from "../../parts/form.tsx";

interface ChangeFootProps {
  readonly plan: SitePlanView | null;
  readonly trouble: string | null;
  readonly verb: string;
  /** Left out: there is nowhere to go back to. */
  readonly onLeave?: () => void;
}

/** The end of a form that changes a site: what it would change, and the buttons. */
export function ChangeFoot({ plan, trouble, verb, onLeave }: ChangeFootProps) {
  return (
    <>
      {plan && <SitePlan plan={plan} />}
      <Trouble>{trouble}</Trouble>
      <p className="mt-2 flex flex-wrap items-center gap-4">
        <Button type="submit" value="check" className={QUIET}>
          Preview changes
        </Button>
        <Button type="submit" value="save" className={STRONG}>
          {verb}
        </Button>
        {onLeave && (
          <Button onClick={onLeave} className={QUIET}>
            Cancel
          </Button>
        )}
      </p>
    </>
  );
}

function SitePlan({ plan: { changes, findings, reach } }: { plan: SitePlanView }) {
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
      <ReachChanges reach={reach} />
      <ul>
        {findings.map(({ level, at, text }) => (
          <li key={`${at} ${text}`} className={level === "wrong" ? "font-semibold text-wrong" : ""}>
            {level === "wrong" ? "Error" : "Warning"}: <span className="font-mono">{at}</span> {text}
          </li>
        ))}
      </ul>
      {changes.length === 0 && <p>No changes.</p>}
      {findings.length === 0 && <p>No problems found.</p>}
    </div>
  );
}
