/** Certificates for a broker with TLS on loopback: who signs, the broker's, and one for a client. Made by openssl, for a day. */
import { execFileSync } from "node:child_process";
import { chownSync, mkdirSync, readdirSync } from "node:fs";
import path from "node:path";
import { serverUser } from "./needs.ts";

export interface Certificates {
  /** PEM files. */
  readonly ca: string;
  readonly broker: { readonly cert: string; readonly key: string };
  readonly client: { readonly cert: string; readonly key: string };
}

/** @param folder that the broker may read */
export function makeCertificates(folder: string): Certificates {
  mkdirSync(folder, { recursive: true });
  const file = (name: string) => path.join(folder, name);
  const openssl = (...words: string[]) => execFileSync("openssl", words, { stdio: ["ignore", "ignore", "pipe"] });
  const key = ["-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes"];
  openssl(
    "req",
    "-x509",
    ...key,
    "-days",
    "1",
    "-subj",
    "/CN=Copperleaf CA",
    "-keyout",
    file("ca.key"),
    "-out",
    file("ca.pem"),
  );
  const signed = (name: string, subject: string, extensions: readonly string[]) => {
    const request = file(`${name}.csr`);
    openssl("req", ...key, "-subj", subject, ...extensions, "-keyout", file(`${name}.key`), "-out", request);
    const by = ["-CA", file("ca.pem"), "-CAkey", file("ca.key"), "-CAcreateserial"];
    openssl(
      "x509",
      "-req",
      "-days",
      "1",
      "-copy_extensions",
      "copy",
      "-in",
      request,
      ...by,
      "-out",
      file(`${name}.pem`),
    );
    return { cert: file(`${name}.pem`), key: file(`${name}.key`) };
  };
  const broker = signed("broker", "/CN=127.0.0.1", ["-addext", "subjectAltName=IP:127.0.0.1"]);
  const client = signed("client", "/CN=service", []);
  const runAs = serverUser("mosquitto");
  if (runAs) for (const name of readdirSync(folder)) chownSync(file(name), runAs.uid, runAs.gid);
  return { ca: file("ca.pem"), broker, client };
}
