/** A new password by a one-time link. The link changes nothing by being opened: a preview of it must not use it up. */

import { useState } from "react";
import { Link, useParams } from "wouter";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { ENTRY_KEY, EntryPage, EntryProblem, TextField } from "./entry.tsx";

export function ResetPage() {
  const { token = "" } = useParams();
  const [problem, setProblem] = useState<string | null>(null);
  const [done, setDone] = useState(false);
  if (done)
    return (
      <EntryPage title="Password saved">
        <p className="mt-5">Sessions and keys that you had have ended. Sign in with the new password.</p>
        <Link to="/board" className="mt-5 text-act underline underline-offset-2">
          Sign in
        </Link>
      </EntryPage>
    );
  return (
    <EntryPage title="New password">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const password = String(new FormData(event.currentTarget).get("password"));
          setProblem(null);
          client.resetPassword({ token, password }).then(
            () => setDone(true),
            (error: Error) => setProblem(error.message),
          );
        }}
        className="mt-5 flex flex-col gap-4"
      >
        <TextField label="New password" name="password" type="password" autoComplete="new-password" />
        <p className="text-note text-soft">
          At least 12 characters. Several words that do not belong together are best.
        </p>
        <Button type="submit" className={ENTRY_KEY}>
          Save password
        </Button>
      </form>
      <EntryProblem>{problem}</EntryProblem>
    </EntryPage>
  );
}
