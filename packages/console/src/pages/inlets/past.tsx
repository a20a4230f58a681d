/** Past arrivals, tried against the inlet as it is described now: what would have changed? Nothing is sent. */
import type { PastView, TakenView } from "@bold-relay/api";
import type { InletDescription } from "@bold-relay/core";
import { useState } from "react";
import { Link } from "wouter";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, SectionTitle, Trouble } from "../../parts/form.tsx";
import { TableHead } from "../../parts/table-head.tsx";

const MOST = 200;

export function Past({ slug, inlet }: { slug: string; inlet: InletDescription }) {
  const [found, setFound] = useState<{ past: PastView; of: string } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const described = JSON.stringify(inlet);
  const look = () =>
    client.rehearsePast(slug, { inlet, most: MOST }).then(
      (past) => {
        setFound({ past, of: described });
        setTrouble(null);
      },
      (error: Error) => setTrouble(error.message),
    );
  return (
    <section aria-label="Past arrivals">
      <SectionTitle>Rehearse past requests</SectionTitle>
      <p className="mt-3 flex flex-wrap items-baseline gap-4">
        <Button onClick={() => void look()} className={QUIET}>
          {found === null ? `Rehearse the last ${MOST} requests with these routes` : "Rehearse again"}
        </Button>
        {found && <span className="text-note text-soft">{summary(found.past, found.of === described)}</span>}
      </p>
      <Trouble>{trouble}</Trouble>
      {found && found.past.different > 0 && <Changed past={found.past} />}
    </section>
  );
}

function summary({ arrivals, different }: PastView, isCurrent: boolean): string {
  if (arrivals.length === 0) return "Nothing came in so far that was kept.";
  const stale = isCurrent ? "" : " You have changed it since.";
  const change = different === 0 ? "None would be taken otherwise" : `${different} would be taken otherwise`;
  return `${arrivals.length} looked at. ${change}.${stale}`;
}

function Changed({ past: { arrivals } }: { past: PastView }) {
  return (
    <table className="mt-3 w-full text-left text-note">
      <TableHead titles={["Arrival", "Saved routes", "Edited routes"]} />
      <tbody>
        {arrivals
          .filter(({ same }) => !same)
          .map(({ request, words, before, after }) => (
            <tr key={request} className="border-hairline border-b align-top">
              <td className="py-1.5 pr-4">
                <Link to={`/log/trace/${request}`} className="text-act underline-offset-2 hover:underline">
                  “{words}”
                </Link>
              </td>
              <td className="py-1.5 pr-4">{takenWords(before)}</td>
              <td className="py-1.5 font-medium">{takenWords(after)}</td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}

function takenWords({ does, reply, route }: TakenView): string {
  const by = route === null ? "" : ` (route ${route})`;
  if (does.length > 0) return `${does.join(", ")}${by}`;
  return reply === "" ? `nothing${by}` : `“${reply}”`;
}
