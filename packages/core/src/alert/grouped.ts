/** Things that belong together, by what they have in common. */
export function grouped<One>(all: readonly One[], keyOf: (one: One) => string): Map<string, One[]> {
  const groups = new Map<string, One[]>();
  for (const one of all) groups.set(keyOf(one), [...(groups.get(keyOf(one)) ?? []), one]);
  return groups;
}
