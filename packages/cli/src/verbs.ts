/** Every verb of `bold-relay` and the file that has it: a verb loads its own only, in the order of help. */
import type { Command } from "commander";

export const VERBS: Readonly<Record<string, () => Promise<Command>>> = {
  status: async () => (await import("./commands/status.ts")).statusCommand,
  send: async () => (await import("./commands/send.ts")).sendCommand,
  say: async () => (await import("./commands/say.ts")).sayCommand,
  state: async () => (await import("./commands/state.ts")).stateCommand,
  log: async () => (await import("./commands/log.ts")).logCommand,
  trace: async () => (await import("./commands/trace.ts")).traceCommand,
  alerts: async () => (await import("./commands/alerts.ts")).alertsCommand,
  stats: async () => (await import("./commands/stats.ts")).statsCommand,
  watch: async () => (await import("./commands/watch.ts")).watchCommand,
  lock: async () => (await import("./commands/lock.ts")).lockCommand,
  unlock: async () => (await import("./commands/lock.ts")).unlockCommand,
  cancel: async () => (await import("./commands/cancel.ts")).cancelCommand,
  map: async () => (await import("./commands/map.ts")).mapCommand,
  history: async () => (await import("./commands/history.ts")).historyCommand,
  member: async () => (await import("./commands/team.ts")).memberCommand,
  key: async () => (await import("./commands/team.ts")).keyCommand,
  audit: async () => (await import("./commands/team.ts")).auditCommand,
  cluster: async () => (await import("./commands/cluster.ts")).clusterCommand,
  devices: async () => (await import("./commands/devices.ts")).devicesCommand,
  commission: async () => (await import("./commands/commission.ts")).commissionCommand,
  site: async () => (await import("./commands/site.ts")).siteCommand,
  room: async () => (await import("./commands/site-parts.ts")).roomCommand,
  channel: async () => (await import("./commands/channel.ts")).channelCommand,
  group: async () => (await import("./commands/site-parts.ts")).groupCommand,
  scene: async () => (await import("./commands/site-parts.ts")).sceneCommand,
  interlock: async () => (await import("./commands/site-parts.ts")).interlockCommand,
  profile: async () => (await import("./commands/profile.ts")).profileCommand,
  inlet: async () => (await import("./commands/inlet.ts")).inletCommand,
  notification: async () => (await import("./commands/notification.ts")).notificationCommand,
  save: async () => (await import("./commands/folder.ts")).saveCommand,
  check: async () => (await import("./commands/folder.ts")).checkCommand,
  load: async () => (await import("./commands/folder.ts")).loadCommand,
  versions: async () => (await import("./commands/versions.ts")).versionsCommand,
  undo: async () => (await import("./commands/versions.ts")).undoCommand,
  translator: async () => (await import("./commands/translator.ts")).translatorCommand,
  wire: async () => (await import("./commands/wire.ts")).wireCommand,
  publish: async () => (await import("./commands/wire.ts")).publishCommand,
  completion: async () => (await import("./commands/completion.ts")).completionCommand,
};

export const ALL_VERBS: readonly string[] = Object.keys(VERBS);

/** Options before the verb that take a word of their own. */
const WITH_WORD = new Set(["--url"]);

/**
 * The verbs that a command line needs: its own; none for the version; all of them, where it has none or one that is not known, to say
 * which there are.
 *
 * @example verbsFor(["--url", "http://relay.test", "status"]) // → ["status"]
 */
export function verbsFor(words: readonly string[]): readonly string[] {
  for (let place = 0; place < words.length; place += 1) {
    const word = words[place] ?? "";
    if (WITH_WORD.has(word)) place += 1;
    else if (word === "--version" || word === "-V") return [];
    // A script that completes names them all.
    else if (word === "completion" && !words.includes("--addresses")) return ALL_VERBS;
    else if (!word.startsWith("-")) return Object.hasOwn(VERBS, word) ? [word] : ALL_VERBS;
  }
  return ALL_VERBS;
}
