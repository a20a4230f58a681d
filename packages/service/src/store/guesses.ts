/** What somebody tries one after the other: what the audit log has of callers who were slowed down. */
import { type AuditAction, type GuessInput, smallestIdAt } from "@bold-relay/core";
import type { Db } from "./pool.ts";

const GUESSED: Partial<Record<AuditAction, GuessInput["guessed"]>> = {
  "sign-in slowed down": "account",
  "PINs slowed down": "pin",
  "keys slowed down": "key",
};

/**
 * Tries that were slowed down.
 *
 * @param since ms since 1970
 */
export async function findGuesses(db: Db, since: number): Promise<GuessInput[]> {
  const { rows } = await db.query<GuessInput>({
    name: "find-guesses",
    text: `with entered as materialized (
             select object, address, max(at) as at from audit where id >= $1 and action = 'signed in' group by 1, 2)
           select guessed, case when guessed <> 'account' or exists (select from member where name = object) then object end as of,
             count(distinct address)::int as addresses,
             extract(epoch from min(tried.at))::float8 * 1000 as "firstAt",
             extract(epoch from max(tried.at))::float8 * 1000 as "lastAt",
             bool_or(guessed = 'account' and entered.at > tried.at) is true as "signedIn"
           from audit tried
           join lateral (select $2::jsonb ->> tried.action as guessed) as what on guessed is not null
           left join entered using (object, address)
           where tried.id >= $1
           group by 1, 2
           order by "firstAt"`,
    values: [smallestIdAt(since), JSON.stringify(GUESSED)],
  });
  return rows;
}
