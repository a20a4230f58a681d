/** What the resident memory of a Node.js process is made of: from /proc (Linux), and from what the service tells of its heap. */
import { readFileSync } from "node:fs";

/** All in MB. */
export interface MemoryParts {
  readonly resident: number;
  /** Pages of programs and libraries, which processes share. */
  readonly files: number;
  /** The two halves in which objects are made. */
  readonly youngHeap: number;
  /** What stayed, and the code that was compiled; with its gaps. */
  readonly oldHeap: number;
  /** Buffers and what else lives outside the heap and is told to it. */
  readonly buffers: number;
  /** The rest: the allocator, stacks of threads, tables of the engine. */
  readonly other: number;
}

/**
 * @param url of the service
 * @param key of a member who may read its metrics
 */
export async function memoryParts(pid: number, url: string, key: string): Promise<MemoryParts> {
  const answer = await fetch(`${url}/metrics`, { headers: { authorization: `Bearer ${key}` } });
  const metrics = await answer.text();
  const metric = (name: string): number => {
    const line = metrics.split("\n").find((one) => one.startsWith(`${name} `));
    if (!line) throw new Error(`The service tells no ${name}.`);
    return Number(line.slice(name.length + 1)) / MEGABYTE;
  };
  const { resident, files } = mappings(pid);
  const youngHeap = metric('nodejs_heap_space_size_total_bytes{space="new"}');
  const oldHeap = metric("nodejs_heap_size_total_bytes") - youngHeap;
  const buffers = metric("nodejs_external_memory_bytes");
  return { resident, files, youngHeap, oldHeap, buffers, other: resident - files - youngHeap - oldHeap - buffers };
}

const MEGABYTE = 1_048_576;

function mappings(pid: number): { readonly resident: number; readonly files: number } {
  const rollup = readFileSync(`/proc/${pid}/smaps_rollup`, "utf8");
  const megabytes = (name: string) => Number(new RegExp(`^${name}:\\s+(\\d+) kB`, "m").exec(rollup)?.[1]) / 1_024;
  const resident = megabytes("Rss");
  return { resident, files: resident - megabytes("Anonymous") };
}
