/** How many edits lie between two words or names: insert, delete, replace, swap of neighbours (optimal string alignment). */

/**
 * Only the band of the matrix that can stay within `furthest` is looked at, and what both begin and end with is left out: a long list
 * of names that are much alike stays cheap to compare with.
 *
 * @param furthest gives up above it, and returns one more
 * @param onWork is told how many cells of the matrix were looked at
 * @example editDistance("porch lantren", "porch lantern", 2) // → 1
 */
export function editDistance(one: string, other: string, furthest: number, onWork = ignored): number {
  let [from, oneEnd, otherEnd] = [0, one.length, other.length];
  if (Math.abs(oneEnd - otherEnd) > furthest) return furthest + 1;
  while (from < oneEnd && from < otherEnd && one.charCodeAt(from) === other.charCodeAt(from)) from += 1;
  while (from < oneEnd && from < otherEnd && one.charCodeAt(oneEnd - 1) === other.charCodeAt(otherEnd - 1)) {
    oneEnd -= 1;
    otherEnd -= 1;
  }
  const [a, b] = [one.slice(from, oneEnd), other.slice(from, otherEnd)];
  return Math.min(furthest + 1, bandDistance(a, b, furthest, onWork));
}

/**
 * The words that somebody may have meant, best first: those that begin alike, then those that are spelt nearly so.
 *
 * @param most how many at most
 * @example nearestWords("stat", ["status", "state", "send"]) // → ["state", "status"]
 */
export function nearestWords(word: string, known: readonly string[], most = 3): string[] {
  const wanted = word.toLowerCase();
  const furthest = wanted.length <= 4 ? 1 : Math.max(2, Math.floor(wanted.length / 3));
  const farness = (one: string) => {
    const name = one.toLowerCase();
    if (wanted !== "" && name.startsWith(wanted)) return (name.length - wanted.length) / 100;
    return editDistance(name, wanted, furthest);
  };
  return known
    .map((one) => ({ one, far: farness(one) }))
    .filter(({ far }) => far <= furthest)
    .sort((a, b) => a.far - b.far)
    .slice(0, most)
    .map(({ one }) => one);
}

/** Three rows of the matrix, used again for each pair. */
let rows = [new Int32Array(64), new Int32Array(64), new Int32Array(64)] as [Int32Array, Int32Array, Int32Array];

function bandDistance(a: string, b: string, furthest: number, onWork: (cells: number) => void): number {
  if (a.length === 0 || b.length === 0) return a.length + b.length;
  if (rows[0].length < b.length + 2) rows = [sized(b), sized(b), sized(b)];
  let [beforeLast, last, row] = rows;
  const beyond = furthest + 1;
  for (let j = 0; j <= b.length; j += 1) last[j] = j;
  for (let i = 1; i <= a.length; i += 1) {
    const first = Math.max(1, i - furthest);
    const end = Math.min(b.length, i + furthest);
    // What lies outside the band is too far.
    row[first - 1] = first === 1 ? i : beyond;
    let least = row[first - 1] as number;
    for (let j = first; j <= end; j += 1) {
      const cell = cellOf(a, b, i, j, beforeLast, last, row);
      row[j] = cell;
      if (cell < least) least = cell;
    }
    row[end + 1] = beyond;
    onWork(end - first + 1);
    if (least > furthest) return beyond;
    [beforeLast, last, row] = [last, row, beforeLast];
  }
  return last[b.length] as number;
}

function sized(text: string): Int32Array {
  return new Int32Array(text.length * 2 + 2);
}

function cellOf(a: string, b: string, i: number, j: number, beforeLast: Int32Array, last: Int32Array, row: Int32Array) {
  const [letter, other] = [a.charCodeAt(i - 1), b.charCodeAt(j - 1)];
  let cell = (last[j - 1] as number) + (letter === other ? 0 : 1);
  const edit = Math.min(last[j] as number, row[j - 1] as number) + 1;
  if (edit < cell) cell = edit;
  if (i > 1 && j > 1 && letter === b.charCodeAt(j - 2) && other === a.charCodeAt(i - 2)) {
    const swap = (beforeLast[j - 2] as number) + 1;
    if (swap < cell) cell = swap;
  }
  return cell;
}

function ignored(_cells: number): void {}
