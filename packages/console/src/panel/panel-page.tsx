/** One panel, full page: large tiles with what is, what was commanded, and the keys. */
import type { PanelItemView, PanelView } from "@bold-relay/api";
import { useEffect, useState } from "react";
import { Button } from "../parts/button.tsx";
import { FIELD, STRONG } from "../parts/form.tsx";
import { when } from "../parts/time.ts";
import { FullScreen } from "./full-screen.tsx";
import { forgetKey, IN_COOKIE, keepKey, type PanelKey, settleKey } from "./panel-key.ts";
import { PinEntry } from "./pin-entry.tsx";
import { keepPin, keptPin } from "./pin-token.ts";
import { Tile } from "./tile.tsx";
import { type PanelClient, usePanel } from "./use-panel.ts";

interface PanelPageProps {
  readonly slug: string;
  /** null: none came with the address, and none was kept. */
  readonly firstKey: PanelKey | null;
}

export function PanelPage({ slug, firstKey }: PanelPageProps) {
  const [key, setKey] = useState(firstKey);
  if (key === null) return <NoKey slug={slug} onKey={setKey} />;
  return (
    <Settling
      key={key}
      slug={slug}
      panelKey={key}
      onForget={() => {
        forgetKey(slug);
        setKey(null);
      }}
    />
  );
}

/** Shows the panel once it is known where its key is kept. */
function Settling({ slug, panelKey, onForget }: WithKeyProps) {
  const [settled, setSettled] = useState(panelKey === IN_COOKIE ? panelKey : null);
  useEffect(() => {
    if (settled === null) void settleKey(slug, panelKey).then(setSettled);
  }, [slug, panelKey, settled]);
  if (settled === null) return <Notice title="Panel">Connecting …</Notice>;
  return <WithKey slug={slug} panelKey={settled} onForget={onForget} />;
}

interface WithKeyProps {
  readonly slug: string;
  readonly panelKey: PanelKey;
  readonly onForget: () => void;
}

function WithKey({ slug, panelKey, onForget }: WithKeyProps) {
  const [pin, setPin] = useState(() => keptPin(slug));
  const { client, state } = usePanel(slug, panelKey, pin);
  switch (state.is) {
    case "waiting":
      return <Notice title="Panel">Connecting …</Notice>;
    case "pin":
      return (
        <PinEntry
          client={client}
          onEntered={(entered) => {
            keepPin(slug, entered);
            setPin(entered.token);
          }}
        />
      );
    case "away":
      return (
        <Notice title={state.title}>
          {state.why}
          {state.isFinal ? (
            <Button onClick={onForget} className={`${STRONG} mt-5 block h-12`}>
              Enter another link
            </Button>
          ) : (
            <span className="mt-3 block text-soft">It is tried again.</span>
          )}
        </Notice>
      );
    case "shown":
      return <Shown panel={state.panel} since={state.since} client={client} />;
  }
}

function Shown({ panel, since, client }: { panel: PanelView; since: number | null; client: PanelClient }) {
  return (
    <main className="mx-auto max-w-[1600px] px-4 pt-3 pb-10 md:px-6 md:pt-5">
      <title>{panel.name}</title>
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1 className="text-page">{panel.name}</h1>
        {!panel.acts && <span className="text-soft">Read-only</span>}
        <FullScreen />
      </header>
      {since !== null && (
        <p role="alert" className="mt-2 border-wrong border-l-[3px] bg-wrong-wash px-4 py-2">
          No connection. What is shown was so at {when.clock(new Date(since).toISOString())}. Nothing can be switched.
        </p>
      )}
      <ul className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(min(100%,290px),1fr))] gap-x-8">
        {panel.items.map((item) => (
          <Item key={item.place} item={item} client={client} isLive={since === null} />
        ))}
      </ul>
    </main>
  );
}

function Item({ item, client, isLive }: { item: PanelItemView; client: PanelClient; isLive: boolean }) {
  if (item.is === "heading")
    return (
      <li className="col-span-full mt-1 border-ink border-b pb-1">
        <h2 className="text-title">{item.name}</h2>
      </li>
    );
  if (item.is === "gone")
    return (
      <li className="border-rule border-b py-4 text-soft">
        <span className="font-plate text-title">{item.name}</span>
        <p>This item no longer exists.</p>
      </li>
    );
  return <Tile item={item} client={client} isLive={isLive} />;
}

function Notice({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <main className="mx-auto max-w-[420px] px-5 pt-[18vh] text-title">
      <h1 className="text-page">{title}</h1>
      <div role="status" className="mt-3">
        {children}
      </div>
    </main>
  );
}

/** An app that was installed on some phones begins without what the browser kept. */
function NoKey({ slug, onKey }: { slug: string; onKey: (key: PanelKey) => void }) {
  const [text, setText] = useState("");
  const [isWrong, setWrong] = useState(false);
  return (
    <Notice title="A link is needed">
      <p>Open the link of this panel, scan its QR code, or paste the link here.</p>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          const key = keepKey(slug, text);
          setWrong(key === null);
          if (key !== null) onKey(key);
        }}
      >
        <input
          aria-label="Link of the panel"
          value={text}
          autoComplete="off"
          onChange={(event) => setText(event.target.value)}
          className={`${FIELD} h-12`}
        />
        {isWrong && (
          <p role="alert" className="text-body text-wrong">
            This is not a link of a panel.
          </p>
        )}
        <Button type="submit" className={`${STRONG} h-12`}>
          Open panel
        </Button>
      </form>
    </Notice>
  );
}
