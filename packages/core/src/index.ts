/** The public door of the core: pure functions and small state machines, no I/O, no clock of its own. */
export * from "./ask/decide.ts";
export * from "./ask/guard.ts";
export * from "./ask/intent.ts";
export * from "./ask/limits.ts";
export * from "./ask/setpoint-ask.ts";
export * from "./ask/trace-context.ts";
export * from "./attention/matter.ts";
export * from "./channel/colour.ts";
export * from "./channel/index.ts";
export * from "./channel/kind.ts";
export * from "./channel/lamps.ts";
export * from "./channel/value.ts";
export * from "./codec/apart.ts";
export * from "./codec/bytes.ts";
export * from "./codec/calibration.ts";
export * from "./codec/codec.ts";
export * from "./codec/fields.ts";
export * from "./codec/index.ts";
export * from "./codec/meaning.ts";
export * from "./codec/message.ts";
export * from "./codec/nesting.ts";
export * from "./codec/pointer.ts";
export * from "./codec/template.ts";
export * from "./codec/text.ts";
export * from "./codec/utf8.ts";
export {
  isOneOf,
  WORD_VALUES,
  type WordMeaning,
  type WordSettings,
  type Words,
  wordConflicts,
  wordsNameChannel,
} from "./codec/words.ts";
export * from "./commissioning/compare.ts";
export * from "./commissioning/judge.ts";
export * from "./commissioning/step.ts";
export * from "./delivery/advance.ts";
export * from "./delivery/command.ts";
export * from "./delivery/lane.ts";
export * from "./delivery/lane-due.ts";
export * from "./delivery/policy.ts";
export * from "./delivery/remark.ts";
export * from "./delivery/restore.ts";
export * from "./delivery/stage.ts";
export * from "./delivery/transition.ts";
export * from "./errors/catalogue.ts";
export * from "./errors/relay-error.ts";
export * from "./id.ts";
export * from "./inlet/index.ts";
export * from "./line/line-splitter.ts";
export * from "./notice/notice.ts";
export * from "./phrase/index.ts";
export * from "./report/answer.ts";
export * from "./report/cause.ts";
export * from "./report/day.ts";
export * from "./report/duration.ts";
export * from "./report/figures.ts";
export * from "./report/history.ts";
export * from "./report/ignored.ts";
export * from "./report/outcome.ts";
export * from "./report/track.ts";
export * from "./report/verdict.ts";
export * from "./report/words.ts";
export * from "./site/access.ts";
export * from "./site/check.ts";
export * from "./site/claim.ts";
export * from "./site/compare.ts";
export * from "./site/disjoint-filters.ts";
export * from "./site/edit.ts";
export * from "./site/entry.ts";
export * from "./site/filter.ts";
export * from "./site/model.ts";
export * from "./site/name.ts";
export * from "./site/rows.ts";
export * from "./site/shipped-profiles.ts";
export * from "./site/snapshot.ts";
export * from "./site/spelling.ts";
export * from "./site/topic.ts";
export * from "./site/topic-right.ts";
export * from "./site/try-profile.ts";
export * from "./site/writing.ts";
export * from "./state/agreement.ts";
export * from "./state/lockout.ts";
export * from "./state/observe.ts";
export * from "./state/power-up.ts";
export * from "./state/presence-pattern.ts";
export * from "./state/reading.ts";
export * from "./state/seen.ts";
export * from "./state/state-age.ts";
export * from "./team/key-limits.ts";
export * from "./team/requester.ts";
export * from "./team/role.ts";
