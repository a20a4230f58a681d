/** One's own account: password, second factor, passkeys, and where one is signed in. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Trouble } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";
import type { Act } from "./act.ts";
import { AppSection } from "./app-section.tsx";
import { PasskeySection } from "./passkey-section.tsx";
import { PasswordSection } from "./password-section.tsx";
import { SessionSection } from "./session-section.tsx";

export function AccountPage() {
  const queries = useQueryClient();
  const { data: account } = useQuery({ queryKey: names.account, queryFn: () => client.account() });
  const [trouble, setTrouble] = useState<string | null>(null);

  const act: Act = async (work) => {
    setTrouble(null);
    try {
      await work;
      return true;
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
      return false;
    } finally {
      await Promise.all([names.account, names.session].map((queryKey) => queries.invalidateQueries({ queryKey })));
    }
  };

  if (!account) return null;
  const hasFactor = account.app || account.passkeys.length > 0;
  return (
    <div className="max-w-[720px] px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <h1 className="text-page">Account of {account.name}</h1>
      {account.secondFactorRemoved && (
        <p role="status" className="mt-4 border-wrong border-l-[3px] bg-wrong-wash px-4 py-2">
          {account.secondFactorRemoved.by} removed your second factor on {when.dateTime(account.secondFactorRemoved.at)}
          . If you did not ask for this, change your password and tell another owner of the team.
        </p>
      )}
      {account.secondFactorRequired && !hasFactor && (
        <p role="alert" className="mt-4 border-wrong border-l-[3px] bg-wrong-wash px-4 py-2">
          Your role needs a second factor. Add a passkey or an authenticator app. Until then only this page is open.
        </p>
      )}
      <Trouble>{trouble}</Trouble>
      <PasskeySection account={account} act={act} />
      <AppSection account={account} act={act} />
      <PasswordSection act={act} />
      <SessionSection account={account} act={act} />
    </div>
  );
}
