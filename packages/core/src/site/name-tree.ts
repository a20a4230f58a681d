/**
 * Names as a tree of words: finding the longest name that begins at a word costs as much as it is long, however many names there
 * are. There is one tree for each site, shared by everybody who may name what is there.
 */

/** A place in a tree: the words that led to it. */
export type NameNode = number;

export const NAME_ROOT: NameNode = 0;

/** More different words than one site can have. */
const MOST_WORDS = 2 ** 24;

/** What a name leads to is of one type: a channel, group or scene; or a room. */
export class NameTree<Named> {
  private readonly words = new Map<string, number>();
  /** By node and word. One map for all of them: most nodes have a single successor, and a map of its own would be dear. */
  private readonly successors = new Map<number, NameNode>();
  private readonly named = new Map<NameNode, Named[]>();
  private last: NameNode = NAME_ROOT;

  put(words: readonly string[], named: Named): void {
    if (words.length === 0) return;
    let node = NAME_ROOT;
    for (const word of words) node = this.grown(node, word);
    const known = this.named.get(node);
    if (!known) this.named.set(node, [named]);
    else if (!known.includes(named)) known.push(named);
  }

  /** Where one more word leads; null: no name goes on like this. */
  next(node: NameNode, word: string): NameNode | null {
    const number = this.words.get(word);
    return number === undefined ? null : (this.successors.get(node * MOST_WORDS + number) ?? null);
  }

  /** What has exactly this name. */
  at(node: NameNode): readonly Named[] {
    return this.named.get(node) ?? [];
  }

  private grown(node: NameNode, word: string): NameNode {
    const number = this.words.get(word) ?? this.words.size;
    this.words.set(word, number);
    const known = this.successors.get(node * MOST_WORDS + number);
    if (known !== undefined) return known;
    this.last += 1;
    this.successors.set(node * MOST_WORDS + number, this.last);
    return this.last;
  }
}
