/** Team: who may do what. Members and their roles, keys, and what was changed by whom. */
import { useSession } from "../../api/session.ts";
import { PAGE } from "../../parts/form.tsx";
import { AuditList } from "./audit-list.tsx";
import { FactorRule } from "./factor-rule.tsx";
import { InstanceList } from "./instance-list.tsx";
import { KeyList } from "./key-list.tsx";
import { MemberList } from "./member-list.tsx";

export function TeamPage() {
  const { data: session } = useSession();
  const isOwner = session?.role === "owner";
  return (
    <div className={PAGE}>
      <h1 className="text-page">Access</h1>
      {isOwner && <MemberList me={session.name} />}
      {isOwner && <FactorRule />}
      <KeyList me={session?.name ?? ""} />
      {isOwner && <InstanceList />}
      {isOwner && <AuditList />}
    </div>
  );
}
