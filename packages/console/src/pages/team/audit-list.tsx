/** Every change to who may do what, newest first, with before and after. */
import { useAudit } from "../../api/queries.ts";
import { SectionTitle } from "../../parts/form.tsx";
import { timeOfDay } from "../../parts/words.ts";

export function AuditList() {
  const { data: page } = useAudit();
  return (
    <section aria-label="Audit">
      <SectionTitle>What was changed</SectionTitle>
      <ol>
        {page?.entries.map(({ id, at, actor, action, object, before, after }) => (
          <li key={id} className="grid grid-cols-[110px_minmax(0,1fr)] gap-x-4 border-hairline border-b py-2">
            <span className="text-note text-soft">{timeOfDay(at)}</span>
            <span className="min-w-0">
              <span className="font-medium">{object}</span>: {action} <span className="text-soft">by {actor}</span>
              {(before ?? after) !== null && (
                <span className="block break-all font-mono text-note text-soft">
                  {[before, after].map((one) => (one === null ? "nothing" : JSON.stringify(one))).join(" → ")}
                </span>
              )}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
