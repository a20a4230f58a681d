/** The first owner's name and password, by the one-time link that the service printed. Opening it uses nothing up. */

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Button } from "../../parts/button.tsx";
import { ENTRY_KEY, EntryProblem, TextField } from "../../parts/entry-fields.tsx";
import { EntryPage } from "../sign-in/entry.tsx";

export function FirstOwnerPage() {
  const queries = useQueryClient();
  const [, navigate] = useLocation();
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const { data: state } = useQuery({ queryKey: ["setup"], queryFn: () => client.setupState() });
  if (state?.hasOwner)
    return (
      <EntryPage title="Set-up">
        <p className="mt-5">This installation has an owner. The set-up link is no longer valid.</p>
        <Link to="/board" className="mt-5 text-act underline underline-offset-2">
          Sign in
        </Link>
      </EntryPage>
    );
  return (
    <EntryPage title="First owner">
      <p className="mt-5">
        An owner may do everything: add members, sites and devices, and give rights. You can add more owners later.
      </p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const form = new FormData(event.currentTarget);
          const [name, password] = [String(form.get("name")), String(form.get("password"))];
          setProblem(null);
          setBusy(true);
          client.setUp({ token: location.hash.slice(1), name, password }).then(
            (session) => {
              queries.setQueryData(names.session, session);
              navigate("/setup", { replace: true });
            },
            (error: Error) => {
              setBusy(false);
              setProblem(error.message);
            },
          );
        }}
        className="mt-5 flex flex-col gap-4"
      >
        <TextField label="Name" name="name" autoComplete="username" />
        <TextField label="Password" name="password" type="password" autoComplete="new-password" />
        <p className="text-note text-soft">
          At least 12 characters. Several words that do not belong together are best.
        </p>
        <Button type="submit" disabled={busy} className={ENTRY_KEY}>
          {busy ? "Creating owner" : "Create owner"}
        </Button>
      </form>
      <EntryProblem>{problem}</EntryProblem>
    </EntryPage>
  );
}
