/** Every change to what is described and to who may do what, newest first: a sentence each, with what differs to unfold. */
import type { AuditPage } from "@bold-relay/api";
import { auditChanges, auditWords } from "@bold-relay/core";
import { useAudit } from "../../api/queries.ts";
import { SectionTitle } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";

export function AuditList() {
  const { data: page } = useAudit();
  return (
    <section aria-label="Audit log">
      <SectionTitle>Audit log</SectionTitle>
      <ol>
        {page?.entries.map((entry) => (
          <li key={entry.id} className="grid grid-cols-[110px_minmax(0,1fr)] gap-x-4 border-hairline border-b py-2">
            <span className="text-note text-soft">{when.clock(entry.at)}</span>
            <Entry entry={entry} />
          </li>
        ))}
      </ol>
    </section>
  );
}

function Entry({ entry: { actor, action, object, before, after } }: { entry: AuditPage["entries"][number] }) {
  const changes = auditChanges(before, after);
  const sentence = (
    <>
      {actor} {auditWords(action)} <span className="font-medium">{object}</span>
    </>
  );
  if (changes.length === 0) return <p className="min-w-0">{sentence}</p>;
  return (
    <details className="min-w-0">
      <summary className="cursor-pointer">{sentence}</summary>
      <dl className="mt-1 grid grid-cols-[minmax(90px,auto)_minmax(0,1fr)] gap-x-4 text-note text-soft">
        {changes.map(({ place, from, to }) => (
          <div key={place} className="contents">
            <dt className="font-mono">{place}</dt>
            <dd className="break-all">
              {from ?? "nothing"} → {to ?? "nothing"}
            </dd>
          </div>
        ))}
      </dl>
    </details>
  );
}
