/** Members with their roles; adding one, changing the role, removing one. */
import type { MemberBody, MemberView } from "@bold-relay/api";
import { ROLES, type Role } from "@bold-relay/core";
import { Field, Input, Label, Select } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useBoard } from "../../api/board.ts";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useMembers } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, QUIET, SectionTitle, ShownOnce, STRONG, Trouble } from "../../parts/form.tsx";
import { PasswordForm } from "../../parts/password-form.tsx";
import { RemoveMember } from "./remove-member.tsx";

/** The whole team, as the value of a choice. */
const EVERYWHERE = "";

export function MemberList({ me }: { me: string }) {
  const { data: members } = useMembers();
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState<string | null>(null);
  const [removing, setRemoving] = useState<string | null>(null);
  const [link, setLink] = useState<{ name: string; url: string } | null>(null);
  const act = async (work: Promise<unknown>) => {
    setTrouble(null);
    const ok = await work.then(
      () => true,
      (error: Error) => {
        setTrouble(error.message);
        return false;
      },
    );
    if (ok) setRemoving(null);
    await queries.invalidateQueries({ queryKey: names.team });
  };
  const reset = (name: string) =>
    act(client.resetMember(name).then(({ path }) => setLink({ name, url: `${window.location.origin}${path}` })));
  return (
    <section aria-label="Members">
      <SectionTitle>Members</SectionTitle>
      <ul>
        {members?.map((member) => (
          <li
            key={member.name}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-hairline border-b py-2"
            data-member={member.name}
          >
            <span className="min-w-[120px] font-plate font-semibold">{member.name}</span>
            <span className="text-note text-soft">
              {rolesText(member)}
              {member.secondFactor ? ", with second factor" : ""}
            </span>
            <span className="ml-auto flex items-center gap-4">
              {member.sites.length === 0 && (
                <RoleChoice
                  member={member}
                  onChange={(role) => void act(client.setRoles(member.name, role === null ? {} : { role }))}
                />
              )}
              <Button onClick={() => void reset(member.name)} className={QUIET}>
                Reset password
              </Button>
              {member.secondFactor && member.name !== me && (
                <Button
                  onClick={() => setRemoving(removing === member.name ? null : member.name)}
                  className={QUIET}
                  aria-expanded={removing === member.name}
                >
                  {removing === member.name ? "Cancel" : "Remove second factor"}
                </Button>
              )}
              {member.name === me ? (
                <span className="text-note text-soft">you</span>
              ) : (
                <RemoveMember
                  name={member.name}
                  onRemove={(inletKeys) => void act(client.removeMember(member.name, inletKeys))}
                />
              )}
            </span>
            {removing === member.name && (
              <div className="w-full pb-2">
                <p className="mt-1 text-note text-soft">
                  Without it {member.name} signs in with the password alone, until they add a new one. All sessions of{" "}
                  {member.name} end.
                </p>
                <PasswordForm
                  verb={`Remove second factor of ${member.name}`}
                  onPassword={(password) => void act(client.removeSecondFactor(member.name, { password }))}
                />
              </div>
            )}
          </li>
        ))}
      </ul>
      <Trouble>{trouble}</Trouble>
      {link && (
        <ShownOnce what={`Reset link of ${link.name}, for 24 hours`} secret={link.url} onClose={() => setLink(null)} />
      )}
      <AddMember />
    </section>
  );
}

function RoleChoice({ member, onChange }: { member: MemberView; onChange: (role: Role | null) => void }) {
  return (
    <Select
      aria-label={`Role of ${member.name}`}
      value={member.role ?? "none"}
      onChange={(event) => onChange(event.target.value === "none" ? null : (event.target.value as Role))}
      className={`${FIELD} text-note`}
    >
      <option value="none">no role</option>
      {ROLES.map((role) => (
        <option key={role} value={role}>
          {role}
        </option>
      ))}
    </Select>
  );
}

function AddMember() {
  const { data: board } = useBoard();
  const queries = useQueryClient();
  const [made, setMade] = useState<{ name: string; url: string } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const form = event.currentTarget;
    const data = new FormData(form);
    const body = bodyOf(String(data.get("role")) as Role, String(data.get("site")));
    setTrouble(null);
    try {
      const { name, invitation } = await client.inviteMember({ name: String(data.get("name")), ...body });
      setMade({ name, url: `${window.location.origin}${invitation.path}` });
      form.reset();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
    await queries.invalidateQueries({ queryKey: names.team });
  }

  return (
    <form onSubmit={(event) => void submit(event)} className="mt-4">
      <div className="flex flex-wrap items-end gap-3">
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">New member</Label>
          <Input name="name" required maxLength={80} className={FIELD} />
        </Field>
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Role</Label>
          <Select name="role" defaultValue="operator" className={FIELD}>
            {ROLES.map((role) => (
              <option key={role}>{role}</option>
            ))}
          </Select>
        </Field>
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Site</Label>
          <Select name="site" className={FIELD}>
            <option value={EVERYWHERE}>every site</option>
            {board?.sites.map((site) => (
              <option key={site.slug} value={site.slug}>
                {site.name}
              </option>
            ))}
          </Select>
        </Field>
        <Button type="submit" className={STRONG}>
          Invite member
        </Button>
      </div>
      <p className="mt-1.5 text-note text-soft">
        You get a link to send. With it they choose their password. It is valid for 7 days and works once.
      </p>
      <Trouble>{trouble}</Trouble>
      {made && <ShownOnce what={`Invitation of ${made.name}`} secret={made.url} onClose={() => setMade(null)} />}
    </form>
  );
}

/** An owner is one of the whole team, whatever site was chosen. */
function bodyOf(role: Role, site: string): MemberBody {
  return site === EVERYWHERE || role === "owner" ? { role } : { sites: [{ site, role }] };
}

function rolesText({ role, sites }: MemberView): string {
  const all = [...(role === null ? [] : [`${role}, every site`]), ...sites.map((one) => `${one.role} at ${one.site}`)];
  return all.length === 0 ? "without a role: may do nothing" : all.join(", ");
}
