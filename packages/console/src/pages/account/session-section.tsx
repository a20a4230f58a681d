/** Where one is signed in, and ending what should not be. */
import type { AccountView } from "@bold-relay/api";
import { client } from "../../api/client.ts";
import { SectionTitle, Twice } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";
import type { Act } from "./act.ts";

export function SessionSection({ account: { sessions }, act }: { account: AccountView; act: Act }) {
  return (
    <section aria-label="Sessions">
      <SectionTitle>Sessions</SectionTitle>
      <ul>
        {sessions.map(({ id, current, createdAt, seenAt, address, agent, proof }) => (
          <li key={id} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-hairline border-b py-2">
            <span className="min-w-0 flex-1">
              <span className="font-plate font-semibold">{address ?? "unknown address"}</span>
              <span className="text-note text-soft">
                {" "}
                signed in {when.dateTime(createdAt)} by {proof}, last seen {when.dateTime(seenAt)}
              </span>
              {agent !== null && <span className="block truncate text-note text-soft">{agent}</span>}
            </span>
            {current ? (
              <span className="text-note text-soft">this session</span>
            ) : (
              <Twice verb="End session" sure="End this session" onSure={() => void act(client.endSession(id))} />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
