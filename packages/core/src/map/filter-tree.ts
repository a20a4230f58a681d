/** Topic filters by their levels: those that overlap a filter are found by a walk along it, however many there are (MQTT 5, 4.7). */

interface Node<Named> {
  readonly next: Map<string, Node<Named>>;
  readonly ends: Named[];
}

export class FilterTree<Named> {
  private readonly root: Node<Named> = { next: new Map(), ends: [] };

  add(filter: string, named: Named): void {
    let node = this.root;
    for (const level of filter.split("/")) {
      const next = node.next.get(level) ?? { next: new Map(), ends: [] };
      node.next.set(level, next);
      node = next;
    }
    node.ends.push(named);
  }

  /** Everything whose filter covers some topic that this one covers too. */
  overlapping(filter: string): Iterable<Named> {
    return walk(this.root, filter.split("/"), 0);
  }
}

function* walk<Named>(node: Node<Named>, levels: readonly string[], depth: number): Generator<Named> {
  const level = levels[depth];
  if (level === "#") {
    yield* below(node);
    return;
  }
  // # covers the level above it too (4.7.1.2).
  yield* node.next.get("#")?.ends ?? [];
  if (level === undefined) {
    yield* node.ends;
    return;
  }
  for (const [name, next] of level === "+" ? node.next : both(node, level))
    if (name !== "#") yield* walk(next, levels, depth + 1);
}

function both<Named>({ next }: Node<Named>, level: string): [string, Node<Named>][] {
  return [level, "+"].flatMap((name): [string, Node<Named>][] => {
    const found = next.get(name);
    return found ? [[name, found]] : [];
  });
}

function* below<Named>({ next, ends }: Node<Named>): Generator<Named> {
  yield* ends;
  for (const node of next.values()) yield* below(node);
}
