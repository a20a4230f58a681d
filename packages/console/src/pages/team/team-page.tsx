/** Team: who may do what. Members and their roles, keys, and what was changed by whom. */
import { useSession } from "../../api/queries.ts";
import { AuditList } from "./audit-list.tsx";
import { FactorRule } from "./factor-rule.tsx";
import { KeyList } from "./key-list.tsx";
import { MemberList } from "./member-list.tsx";

export function TeamPage() {
  const { data: session } = useSession();
  const isOwner = session?.role === "owner";
  return (
    <div className="max-w-[960px] px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <h1 className="text-page">Access</h1>
      {isOwner && <MemberList me={session.name} />}
      {isOwner && <FactorRule />}
      <KeyList me={session?.name ?? ""} />
      {isOwner && <AuditList />}
    </div>
  );
}
