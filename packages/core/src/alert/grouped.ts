/** Things that belong together, by what they have in common. */
export function grouped<One>(all: readonly One[], keyOf: (one: One) => string): Map<string, One[]> {
  const groups = new Map<string, One[]>();
  for (const one of all) {
    const key = keyOf(one);
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return groups;
}
