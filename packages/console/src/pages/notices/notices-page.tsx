/** Notices: who is told of what happens, and whether the telling got through. */
import type { NoticeView } from "@bold-relay/api";
import { Button } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, names, useNotices } from "../../api/queries.ts";
import { QUIET, ShownOnce, STRONG, Trouble, Twice } from "../../parts/form.tsx";
import { NoticeForm } from "./notice-form.tsx";
import { NoticeLog } from "./notice-log.tsx";

export function NoticesPage() {
  const { data: notices, error } = useNotices();
  const [adding, setAdding] = useState(false);
  return (
    <div className="max-w-[1000px] px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">Notices</h1>
        {notices && notices.length > 0 && <p className="text-soft">{notices.length} told of what happens</p>}
        <Button onClick={() => setAdding(!adding)} aria-expanded={adding} className={`${STRONG} ml-auto`}>
          Add a notice
        </Button>
      </header>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {adding && <NoticeForm notice={null} onDone={() => setAdding(false)} />}
      {notices?.length === 0 && !adding && (
        <p className="mt-6 max-w-[560px] text-soft">
          Nobody outside is told of anything so far. A notice posts outcomes, changes or what needs attention to an
          address, or publishes them on a topic.
        </p>
      )}
      {notices?.map((view) => (
        <NoticeEntry key={view.notice.slug} view={view} />
      ))}
    </div>
  );
}

function NoticeEntry({ view: { notice, version, signed } }: { view: NoticeView }) {
  const { slug, name, site, paused = false, to } = notice;
  const queries = useQueryClient();
  const [shown, setShown] = useState<"log" | "form" | null>(null);
  const [secret, setSecret] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setTrouble(null);
      await queries.invalidateQueries({ queryKey: names.notices });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  const toggle = (what: "log" | "form") => setShown(shown === what ? null : what);
  return (
    <section aria-label={name} className="mt-5 border-rule border-t pt-3">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 className="font-semibold">{name}</h2>
        <p className="text-note text-soft">
          <span className="font-mono">{slug}</span>, {site ?? "every premises"}
          {"url" in to && (signed ? ", signed" : ", not signed")}
        </p>
        {paused && <strong className="font-semibold text-note">paused</strong>}
      </div>
      <p className="mt-1">
        {toldWords(notice)} →{" "}
        <span className="break-all font-mono text-note">{"url" in to ? to.url : `topic ${to.topic}`}</span>
      </p>
      <p className="mt-2 flex flex-wrap gap-x-5 gap-y-2">
        <Button onClick={() => toggle("log")} aria-expanded={shown === "log"} className={QUIET}>
          What was told
        </Button>
        <Button onClick={() => toggle("form")} aria-expanded={shown === "form"} className={QUIET}>
          Change it
        </Button>
        <Button
          onClick={() => void act(() => client.saveNotice({ ...notice, paused: !paused }, version))}
          className={QUIET}
        >
          {paused ? "Let it tell again" : "Pause it"}
        </Button>
        {"url" in to && (
          <Button
            onClick={() => void act(async () => setSecret((await client.makeNoticeSecret(slug)).secret))}
            className={QUIET}
          >
            {signed ? "Make a new secret" : "Make a secret for signatures"}
          </Button>
        )}
        <Twice
          verb="Remove"
          sure={`Remove ${slug} and its log`}
          onSure={() => void act(() => client.removeNotice(slug))}
        />
      </p>
      <Trouble>{trouble}</Trouble>
      {secret !== null && (
        <ShownOnce what="Its secret for signatures" secret={secret} onClose={() => setSecret(null)} />
      )}
      {shown === "log" && <NoticeLog slug={slug} />}
      {shown === "form" && <NoticeForm notice={{ notice, version }} onDone={() => setShown(null)} />}
    </section>
  );
}

function toldWords({ on: { outcomes = [], changes, attention } }: NoticeView["notice"]): string {
  const told = [
    ...(outcomes.length > 0 ? [`outcomes (${outcomes.join(", ")})`] : []),
    ...(changes ? ["changes"] : []),
    ...(attention ? ["attention"] : []),
  ];
  return told.length === 0 ? "Nothing" : `Tells of ${told.join(", ")}`;
}
