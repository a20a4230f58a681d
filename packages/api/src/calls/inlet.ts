/** Calls about inlets: their descriptions, secrets, links; and rehearsals, also of what one would ask or say oneself. */

import type { InletDescription } from "@bold-relay/core";
import type { AskBody } from "../ask.ts";
import type { ListenEvent } from "../client-answer.ts";
import type {
  InletDescriptionView,
  InletReply,
  InletView,
  LinkBody,
  LinkRecordView,
  LinkView,
  NewSecretView,
  PastBody,
  PastView,
  RehearsalBody,
  RehearsalView,
  RehearsedAskView,
  TrialBody,
  TrialView,
} from "../inlet-view.ts";
import type { Sender } from "./sender.ts";
import { ifMatch } from "./words.ts";

export function inletCalls({ send, json }: Sender) {
  return {
    /** All inlets that the caller may see, with their health and counts of a day. */
    inlets: () => json<InletView[]>(send("GET", "/api/v1/inlets")),
    /** The description of an inlet, with the version that it is at. */
    inlet: (slug: string) => json<InletDescriptionView>(send("GET", `/api/v1/inlets/${encodeURIComponent(slug)}`)),
    /** @param version that it was changed from; 0: it must be new, null: whatever it is */
    saveInlet: (inlet: InletDescription, version: number | null) =>
      json<InletDescriptionView>(
        send("PUT", `/api/v1/inlets/${encodeURIComponent(inlet.slug)}`, inlet, { headers: ifMatch(version) }),
      ),
    /** Deletes an inlet with its keys. Requests that it made stay on record. @param version that was looked at; null: whatever it is */
    removeInlet: async (slug: string, version: number | null = null) =>
      void (await send("DELETE", `/api/v1/inlets/${encodeURIComponent(slug)}`, undefined, {
        headers: ifMatch(version),
      })),
    /**
     * A new secret for signatures of an inlet; it is in the answer, and nowhere else. The one before counts no more.
     */
    makeSecret: (slug: string) =>
      json<NewSecretView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/secret`, {})),
    /** The signed links of an inlet that still count, newest first; never the links themselves. */
    links: (slug: string) => json<LinkRecordView[]>(send("GET", `/api/v1/inlets/${encodeURIComponent(slug)}/links`)),
    /** A link counts no more. */
    revokeLink: async (slug: string, id: string) =>
      void (await send("DELETE", `/api/v1/inlets/${encodeURIComponent(slug)}/links/${encodeURIComponent(id)}`)),
    /** A signed link that asks for one thing; it is in the answer, and nowhere else. */
    makeLink: (slug: string, body: LinkBody) =>
      json<LinkView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/links`, body)),
    /** What an arrival would do at an inlet, saved or edited. Nothing is sent, kept or counted. */
    rehearse: (slug: string, body: RehearsalBody) =>
      json<RehearsalView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/rehearse`, body)),
    /** What the last arrivals of an inlet would do with edited routes. Nothing is sent. */
    rehearsePast: (slug: string, body: PastBody) =>
      json<PastView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/past`, body)),
    /** What arrives at an inlet and what it could hear, until the signal aborts or the service ends it. */
    async listenAt(slug: string, onEvent: (event: ListenEvent) => void, signal: AbortSignal) {
      const headers = { accept: "text/event-stream" };
      const { readEvents } = await import("../event-reader.ts");
      const path = `/api/v1/inlets/${encodeURIComponent(slug)}/listen`;
      return readEvents<ListenEvent>(send("GET", path, undefined, { signal, headers }), onEvent);
    },
    /** Calls an inlet as an outside caller would. **What that asks is done.** */
    tryInlet: (slug: string, body: TrialBody) =>
      json<TrialView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/try`, body)),
    /** What a phrase would do if its speaker said it. Nothing is sent. */
    rehearsePhrase: (text: string) => json<RehearsalView>(send("POST", "/api/v1/phrases", { text, rehearse: true })),
    /**
     * Says a phrase as oneself.
     * @param waitS how long the answer may wait for the outcome, s
     */
    say: (text: string, waitS = 0) =>
      json<InletReply>(send("POST", "/api/v1/phrases", { text }, { headers: { prefer: `wait=${waitS}` } })),
    /** What an ask would send; nothing is sent, kept or counted. */
    rehearseAsk: (body: AskBody) => json<RehearsedAskView>(send("POST", "/api/v1/requests/rehearse", body)),
  };
}
