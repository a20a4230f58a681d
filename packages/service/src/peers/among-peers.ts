/** What stands before everything: an instance proves itself, and who says that it is one must be. */
import type { RequestListener } from "node:http";
import { RelayError } from "@bold-relay/core";
import { sendProblem } from "../http-exchange/problem.ts";
import { HOP_HEADER } from "./forward.ts";
import type { PeerProof } from "./peer-proof.ts";
import { PROOF_PATH } from "./prove-peer.ts";

const CHALLENGE = /^\?challenge=([0-9a-f]{32})$/;

/** @param run of this process: two with the same address are told apart by it */
export function proving(proof: PeerProof, run: string, serve: RequestListener): RequestListener {
  return (req, res) => {
    const { url = "" } = req;
    const challenge = url.startsWith(PROOF_PATH) ? CHALLENGE.exec(url.slice(PROOF_PATH.length))?.[1] : undefined;
    if (challenge === undefined) return serve(req, res);
    req.resume();
    res.writeHead(200, { "content-type": "application/json", "cache-control": "no-store" });
    res.end(JSON.stringify({ answer: proof.answerTo(challenge), run }));
  };
}

/** Only for whoever leads: what was handed on must come from an instance of ours. */
export function amongPeers(proof: PeerProof, serve: RequestListener): RequestListener {
  return (req, res) => {
    const hop = req.headers[HOP_HEADER];
    if (hop !== undefined && !proof.isOurs(req, String(hop))) {
      req.resume();
      sendProblem(
        res,
        new RelayError("not-permitted", { why: "Only an instance of this installation hands requests on" }),
      );
      return;
    }
    serve(req, res);
  };
}
