/** A new password by a one-time link. The link changes nothing by being opened: a preview of it must not use it up. */
import type { ResetCheckView } from "@bold-relay/api";
import { useQuery } from "@tanstack/react-query";
import { useState, useSyncExternalStore } from "react";
import { Link, useParams } from "wouter";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { ENTRY_KEY, EntryProblem, fieldsOf, TextField } from "../../parts/entry-fields.tsx";
import { when } from "../../parts/time.ts";
import { EntryPage } from "./entry.tsx";

export function ResetPage() {
  const token = useToken();
  const { data: found, error } = useQuery({
    queryKey: ["reset", token],
    queryFn: () => client.checkReset({ token }),
    retry: false,
    refetchOnWindowFocus: false,
  });
  const [problem, setProblem] = useState<string | null>(null);
  const [done, setDone] = useState(false);
  if (done)
    return (
      <EntryPage title="Password saved">
        <p className="mt-5">Sessions that you had have ended. Sign in with the new password.</p>
        <Link to="/board" className="mt-5 text-act underline underline-offset-2">
          Sign in
        </Link>
      </EntryPage>
    );
  return (
    <EntryPage title={found ? `New password of ${found.name}` : "New password"}>
      {error && <EntryProblem>{error.message}</EntryProblem>}
      {found && (
        <form
          onSubmit={(event) => {
            const form = fieldsOf(event);
            const body = { token, password: form("password"), endKeys: form("endKeys") === "on" };
            setProblem(null);
            client.resetPassword(body).then(
              () => setDone(true),
              (cause: Error) => setProblem(cause.message),
            );
          }}
          className="mt-5 flex flex-col gap-4"
        >
          <TextField label="New password" name="password" type="password" autoComplete="new-password" />
          <p className="text-note text-soft">
            At least 12 characters. Several words that do not belong together are best.
          </p>
          {found.keys.length > 0 && <KeyChoice keys={found.keys} />}
          <Button type="submit" className={ENTRY_KEY}>
            Save password
          </Button>
        </form>
      )}
      <EntryProblem>{problem}</EntryProblem>
    </EntryPage>
  );
}

/** Behind the "#", which no server and no proxy sees. Links of older versions have it in the path. */
function useToken(): string {
  const { token } = useParams();
  const inFragment = useSyncExternalStore(onFragment, () => window.location.hash.slice(1));
  return token ?? inFragment;
}

/** Another link may be opened on the same page. */
function onFragment(listener: () => void): () => void {
  window.addEventListener("hashchange", listener);
  return () => window.removeEventListener("hashchange", listener);
}

function KeyChoice({ keys }: Pick<ResetCheckView, "keys">) {
  return (
    <fieldset className="border-rule border-t pt-3">
      <legend className="sr-only">Your keys</legend>
      <p className="font-plate font-semibold">Your keys</p>
      <ul className="mt-1 text-note text-soft">
        {keys.map(({ name, createdAt }) => (
          <li key={`${name} ${createdAt}`}>
            {name}, created {when.date(createdAt)}
          </li>
        ))}
      </ul>
      <label className="mt-2 flex gap-2">
        <input type="checkbox" name="endKeys" defaultChecked className="accent-act" />
        <span>Revoke these keys. Programs that use them stop working.</span>
      </label>
    </fieldset>
  );
}
