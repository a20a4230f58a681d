/** Phrases: what people type and say, read against the names that there are. */
export * from "./choice.ts";
export * from "./question.ts";
export { readPhrase } from "./read-phrase.ts";
export type { Choice, Decided, PhraseAsk, Reading, Unread } from "./reading.ts";
export type { Used } from "./segmented.ts";
export { MOST_PHRASE, tokensOf } from "./token.ts";
export { buildVocabulary, type Vocabulary } from "./vocabulary.ts";
