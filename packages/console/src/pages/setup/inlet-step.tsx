/** The first inlet: one for the web, with a caller to copy. It is done when a request has arrived there. */
import { exampleInlet } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useBoard } from "../../api/board.ts";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useInlets } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, STRONG, Trouble } from "../../parts/form.tsx";

const INLET = { slug: "first-inlet", name: "First inlet" };

export function InletStep() {
  const { data: board } = useBoard();
  const { data: inlets } = useInlets();
  const queries = useQueryClient();
  const [key, setKey] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const site = board?.sites.find(({ channels }) => channels.some(({ actions }) => actions.length > 0));
  const channel = site?.channels.find(({ actions }) => actions.length > 0);
  if (!site || !channel) return null;
  const there = inlets?.find(({ kind }) => kind === "web");

  async function make(): Promise<void> {
    setTrouble(null);
    try {
      const slug = there?.slug ?? INLET.slug;
      if (!there) await client.saveInlet(exampleInlet("web", slug, INLET.name, site?.slug ?? null), 0);
      const made = await client.addKey({ name: "first caller", inlet: slug });
      setKey(made.key);
      await queries.invalidateQueries({ queryKey: names.inlets });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  return (
    <>
      <p className="mt-2 text-note text-soft">
        An inlet is a way for requests to come in. A web inlet takes HTTP requests from scripts, panels and phones, with
        a key of its own. You can add chats, topics, keypads and others later.
      </p>
      <Trouble>{trouble}</Trouble>
      {key === null ? (
        <Button onClick={() => void make()} className={`${STRONG} mt-3`}>
          {there ? `Create key for ${there.name}` : "Add web inlet"}
        </Button>
      ) : (
        <Caller text={callerOf(there?.slug ?? INLET.slug, key, channel)} />
      )}
    </>
  );
}

/** @returns a shell command that makes one request */
function callerOf(
  slug: string,
  key: string,
  { address, actions }: { readonly address: string; readonly actions: readonly string[] },
): string {
  const action = actions.includes("on") ? "on" : actions[0];
  return [
    `curl ${window.location.origin}/in/${slug} \\`,
    `  -H "Authorization: Bearer ${key}" \\`,
    `  -H "Content-Type: application/json" -H "Prefer: wait=5" \\`,
    `  -d '{"target": "${address}", "action": "${action}"}'`,
  ].join("\n");
}

function Caller({ text }: { text: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <div role="status" className="mt-3 border-act border-l-[3px] bg-act-wash px-4 py-3">
      <p>Run this in a shell. The key is shown only once.</p>
      <pre className="mt-2 overflow-x-auto whitespace-pre-wrap break-all font-mono text-note">{text}</pre>
      <p className="mt-2">
        <Button onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))} className={QUIET}>
          {copied ? "Copied" : "Copy"}
        </Button>
      </p>
    </div>
  );
}
