/** What stands before everything where the lanes are held: instances prove themselves, and who says that it is one must be. */
import type { RequestListener } from "node:http";
import { RelayError } from "@bold-relay/core";
import { sendProblem } from "../http-exchange/problem.ts";
import { HOP_HEADER, PROOF_PATH } from "../instance/forward.ts";
import type { PeerProof } from "./peer-proof.ts";

const CHALLENGE = /^\?challenge=([0-9a-f]{32})$/;

export function amongPeers(proof: PeerProof, serve: RequestListener): RequestListener {
  return (req, res) => {
    const { url = "" } = req;
    if (url.startsWith(PROOF_PATH)) {
      const challenge = CHALLENGE.exec(url.slice(PROOF_PATH.length))?.[1];
      if (challenge !== undefined) {
        req.resume();
        res.writeHead(200, { "content-type": "application/json", "cache-control": "no-store" });
        res.end(JSON.stringify({ answer: proof.answerTo(challenge) }));
        return;
      }
    }
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
