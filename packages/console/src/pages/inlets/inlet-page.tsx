/** One inlet: its description with checks as you type, what an arrival would do beside it, its keys, and how to call it. */
import type { InletDescriptionView, InletView } from "@bold-relay/api";
import { callerExample, exampleArrival, type InletDescription, inletKinds, readsPhrases } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation, useParams } from "wouter";
import { stringify } from "yaml";
import { useBoard } from "../../api/board.ts";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useInlet, useInlets } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { readDescription } from "../../parts/description-text.ts";
import { DescriptionEditor } from "../../parts/editor/description-editor.tsx";
import { withMovedRoute, withRoute } from "../../parts/editor/route-text.ts";
import { type UsualField, UsualFields } from "../../parts/editor/usual-fields.tsx";
import { QUIET, SectionTitle, ShownOnce, STRONG, Trouble, Twice } from "../../parts/form.tsx";
import { Versions } from "../../parts/versions.tsx";
import { Health } from "./inlets-page.tsx";
import { Listen } from "./listen.tsx";
import { PanelItems } from "./panel-items.tsx";
import { PanelShare } from "./panel-share.tsx";
import { Past } from "./past.tsx";
import { Rehearsal } from "./rehearsal.tsx";
import { RouteMaker } from "./route-maker.tsx";
import { RouteOrder } from "./route-order.tsx";
import { useLearning } from "./use-learning.ts";

export function InletPage() {
  const { inlet: slug = "" } = useParams();
  const { data: found, error } = useInlet(slug);
  const { data: all } = useInlets();
  const view = all?.find((one) => one.slug === slug);
  return (
    <div className="px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <p className="text-note">
        <Link to="/inlets" className="text-act underline-offset-2 hover:underline">
          Inlets
        </Link>
      </p>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {found && view && <Editor key={found.version} found={found} view={view} />}
    </div>
  );
}

const checkInlet = (draft: object) => client.checkDescription("inlet", draft);

function Editor({ found, view }: { found: InletDescriptionView; view: InletView }) {
  const { inlet, version } = found;
  const queries = useQueryClient();
  const [, navigate] = useLocation();
  const [text, setText] = useState(() => stringify(inlet));
  const [trouble, setTrouble] = useState<string | null>(null);
  const draft = readDescription<InletDescription>(text);
  const learning = useLearning();
  const described = "wrong" in draft ? inlet : draft;
  const routes = "wrong" in draft || !Array.isArray(draft.routes) ? [] : draft.routes;
  const isChanged = text !== stringify(inlet);
  const first = learning.last ?? exampleArrival(inlet);
  const { data: board } = useBoard();
  const sites = (board?.sites ?? []).map(({ slug, name }) => [slug, name] as const);
  const fields: readonly UsualField[] = [
    { path: ["name"], label: "Name" },
    {
      path: ["site"],
      label: "Site",
      emptyIsNull: true,
      choices: [["", "every site"], ...sites],
      hint: "Whose channels it reaches.",
    },
    { path: ["quietAfterHours"], label: "Alert when quiet for (hours)" },
  ];

  const act = async (work: () => Promise<unknown>) => {
    setTrouble(null);
    try {
      await work();
      await queries.invalidateQueries({ queryKey: names.inlets });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };

  return (
    <>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">{inlet.name}</h1>
        <p className="text-soft">
          {inlet.kind}, {inlet.site ?? "every site"}, <Health inlet={view} />
        </p>
        <span className="ml-auto flex items-baseline gap-5">
          <Link to={`/map?of=inlet:${inlet.slug}`} className={QUIET}>
            Show on map
          </Link>
          <Button
            onClick={() => void act(() => client.saveInlet({ ...inlet, paused: !inlet.paused }, version))}
            className={inlet.paused ? STRONG : QUIET}
          >
            {inlet.paused ? "Resume inlet" : "Pause inlet"}
          </Button>
          <Twice
            verb="Delete inlet"
            sure={`Delete ${inlet.slug} and its keys`}
            onSure={() =>
              void act(async () => {
                await client.removeInlet(inlet.slug);
                navigate("/inlets");
              })
            }
          />
        </span>
      </header>
      {!inletKinds[inlet.kind].direct && <Listen inlet={inlet} onChoose={learning.choose} />}
      {learning.arrival && (
        <RouteMaker
          key={JSON.stringify(learning.arrival)}
          arrival={learning.arrival}
          site={inlet.site}
          routes={routes.map(({ name }, at) => name ?? `Route ${at + 1}`)}
          onAdd={(route, at) => {
            setText(withRoute(text, route, at, readsPhrases(inlet.kind)));
            learning.leave();
          }}
          onCancel={learning.leave}
        />
      )}
      <div className="mt-4 grid grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] gap-x-8 max-[1023px]:grid-cols-1">
        <section aria-label="Description">
          <SectionTitle>Description and routes</SectionTitle>
          <div className="mt-3 mb-4">
            <UsualFields kind="inlet" text={text} onChange={setText} fields={fields} />
          </div>
          <PanelItems inlet={draft} text={text} onChange={setText} />
          <RouteOrder routes={routes} onMove={(from, to) => setText(withMovedRoute(text, from, to))} />
          <DescriptionEditor
            kind="inlet"
            label="Description of the inlet, YAML"
            text={text}
            onChange={setText}
            site={null}
            check={checkInlet}
            lines={[14, 30]}
            showsChanges={isChanged}
          />
          <Trouble>{trouble}</Trouble>
          <p className="mt-3 flex items-center gap-4">
            <Button
              disabled={!isChanged || "wrong" in draft}
              onClick={() => {
                if (!("wrong" in draft)) void act(() => client.saveInlet(draft, version));
              }}
              className={`${STRONG} disabled:opacity-50`}
            >
              Save
            </Button>
            {isChanged && (
              <Button onClick={() => setText(stringify(inlet))} className={QUIET}>
                Discard changes
              </Button>
            )}
            <span className="text-note text-soft">
              Version {version}. {isChanged ? "Not saved. The rehearsal uses your changes." : ""}
            </span>
          </p>
        </section>
        <Rehearsal
          key={JSON.stringify(first)}
          slug={inlet.slug}
          inlet={described}
          first={first}
          isChanged={isChanged}
        />
      </div>
      {inletKinds[inlet.kind].page ? (
        <PanelShare found={found} />
      ) : (
        <>
          <Past slug={inlet.slug} inlet={described} />
          <Calling inlet={inlet} onTrouble={setTrouble} />
        </>
      )}
      <Versions kind="inlet" slug={inlet.slug} version={version} />
    </>
  );
}

/** Keys, the secret for signatures, and a call that can be pasted. */
function Calling({ inlet, onTrouble }: { inlet: InletDescription; onTrouble: (trouble: string | null) => void }) {
  const { data: board } = useBoard();
  const queries = useQueryClient();
  const [made, setMade] = useState<{ what: string; secret: string } | null>(null);
  const site = board?.sites.find(({ slug }) => slug === inlet.site) ?? board?.sites[0];
  const channel = site?.channels[0]?.address ?? "wren/porch";
  const make = async (work: Promise<{ what: string; secret: string }>) => {
    try {
      setMade(await work);
      onTrouble(null);
      await queries.invalidateQueries({ queryKey: names.inlets });
    } catch (error) {
      onTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section aria-label="Caller">
      <SectionTitle>Caller</SectionTitle>
      <pre className="mt-3 overflow-x-auto whitespace-pre-wrap break-all rounded-key border border-rule bg-sheet px-3 py-2 font-mono text-note">
        {callerExample(inlet, { origin: window.location.origin, channel })}
      </pre>
      {inletKinds[inlet.kind].keyless ? (
        <p className="mt-2 text-note text-soft">
          {inletKinds[inlet.kind].catches === "channel"
            ? "The devices report their inputs on their own topics. This command does as if one did."
            : "The broker decides who may publish on these topics. Give the publisher its own broker user."}
        </p>
      ) : (
        <p className="mt-3 flex flex-wrap items-center gap-4">
          <Button
            onClick={() =>
              void make(
                client
                  .addKey({ name: "caller", inlet: inlet.slug })
                  .then(({ key }) => ({ what: "Key of the inlet", secret: key })),
              )
            }
            className={STRONG}
          >
            Create key
          </Button>
          {inletKinds[inlet.kind].proof === "key or signature" && (
            <Button
              onClick={() =>
                void make(
                  client.makeSecret(inlet.slug).then(({ secret }) => ({ what: "Signing secret of the inlet", secret })),
                )
              }
              className={QUIET}
            >
              Create signing secret
            </Button>
          )}
          <span className="text-note text-soft">A new key replaces the old one.</span>
        </p>
      )}
      {made && <ShownOnce {...made} onClose={() => setMade(null)} />}
    </section>
  );
}
