// A .tar.gz that is unpacked anywhere and needs nothing but Linux with glibc.
import { execFileSync } from "node:child_process";
import { cpSync } from "node:fs";
import path from "node:path";

/** @returns the file */
export function makeArchive(tree, work, out, { version, arch, epoch }) {
  const name = `bold-relay-${version}-linux-${arch}`;
  cpSync(tree, path.join(work, name), { recursive: true, verbatimSymlinks: true });
  const file = path.join(out, `${name}.tar.gz`);
  const same = [
    "--sort=name",
    "--owner=0",
    "--group=0",
    "--numeric-owner",
    `--mtime=@${epoch}`,
    "--format=gnu",
    "--mode=u+w,go-w,a+rX",
  ];
  execFileSync("tar", ["-C", work, ...same, "--use-compress-program=gzip -n -9", "-cf", file, name]);
  return file;
}
