/** How far a command got (its stage), and how it ended. Both are defined by the delivery contract. */

/** In the order in which a command rises through them. A stage never falls. */
export const STAGES = ["accepted", "published", "acknowledged", "confirmed"] as const;
export type Stage = (typeof STAGES)[number];

/** The stages that a device can be asked to prove. */
export type TargetStage = Exclude<Stage, "accepted">;

/**
 * | end | meaning |
 * |---|---|
 * | delivered | reached its target stage |
 * | replaced | a newer command replaced it before it was written to a socket |
 * | overtaken | sent, then a newer one took its place: may have happened |
 * | expired | its time to live passed before it was written to a socket |
 * | failed | the device or broker said no, or the device's report contradicts it |
 * | unanswered | sent, attempts used up, no proof: may or may not have happened |
 */
export const ENDS = ["delivered", "replaced", "overtaken", "expired", "failed", "unanswered"] as const;
export type End = (typeof ENDS)[number];

/** 0 for accepted to 3 for confirmed. */
export function stageRank(stage: Stage): number {
  return STAGES.indexOf(stage);
}

/** The higher of two stages: evidence comes in any order, so a stage is a maximum. */
export function higherStage(one: Stage, other: Stage): Stage {
  return stageRank(one) >= stageRank(other) ? one : other;
}

/** Whether a stage is at least the one wanted. */
export function hasReached(stage: Stage, wanted: Stage): boolean {
  return stageRank(stage) >= stageRank(wanted);
}
