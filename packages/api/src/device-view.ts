/** What the service answers about sites as descriptions, devices, commissioning and the wire. */
import type {
  AuditChange,
  CommissioningStep,
  DeviceAccess,
  DeviceDescription,
  DevicePresence,
  Finding,
  InletDescription,
  KindName,
  NotificationDescription,
  Profile,
  ProfileFit,
  ProfileTrial,
  ReachChange,
  SiteChange,
  SiteDescription,
  TopicMeaning,
} from "@bold-relay/core";

/** GET /api/v1/sites/<site>/description, and what a change of it answers. */
export interface SiteDescriptionView {
  /** Rises with every change; hand it back as `If-Match`. */
  version: number;
  site: SiteDescription;
}

/** What a description changes, and what is wrong or doubtful about it. */
export interface SitePlanView {
  /** That it was compared with, or that it has now; 0: there is no such site. */
  version: number;
  changes: SiteChange[];
  findings: Finding[];
  /** Which route, inlet or rule would reach which channels no more, or now. */
  reach: ReachChange[];
}

/** GET /api/v1/devices */
export interface DeviceView {
  /** site/device */
  address: string;
  name: string;
  site: { slug: string; name: string };
  room: { slug: string; name: string };
  profile: { slug: string; name: string };
  presence: DevicePresence;
  /** Since when it is online or offline; null: neither is known. */
  presenceSince: string | null;
  /** The topics that it needs at the broker, and none beyond. */
  access: DeviceAccess;
  /** Users at the broker that the service has made for it, oldest first. */
  users: { username: string; madeAt: string; retiresAt: string | null }[];
  /** When it was last proven from the first step to the last, and how many of them failed; null: never. */
  proof: { finishedAt: string; failed: number } | null;
  channels: {
    address: string;
    name: string;
    kind: KindName;
    index: number;
    topics: { do: string | null; stop: string | null; ask: string | null; done: string | null; is: string | null };
  }[];
}

/** POST /api/v1/devices/<site>/<device>/identify */
export interface IdentifiedView {
  /** The lamp that blinked. */
  channel: string;
  name: string;
  /** The requests that made it, oldest first. */
  requests: string[];
}

/** POST /api/v1/devices/<site>/<device>/credentials: shown only once. */
export interface NewCredentialsView {
  username: string;
  /** The only one that it may connect with. Where the broker sets it by the user name, any is replaced by it. */
  clientId: string;
  password: string;
  /** Where devices connect, as the service's settings say; null: they do not say. */
  broker: { url: string /** PEM: the certificate to trust there; null: none of its own. */; ca: string | null } | null;
}

/** A message that was heard, or typed in. */
export interface MessageBody {
  topic: string;
  /** One of these: as text, or bytes in hexadecimal. */
  text?: string;
  hex?: string;
  retained?: boolean;
}

/** The body of POST /api/v1/profiles/try: nothing is sent or saved. */
export interface ProfileTrialBody {
  /** As it would be saved; or the slug of one that is. */
  profile: Profile | string;
  /** Where a device of it would stand. Default: a site called "site". */
  site?: string;
  device: Pick<DeviceDescription, "slug" | "topics" | "channels">;
  messages?: MessageBody[];
}

/** What each action would write, how each message would be read, and which profiles understand the messages best. */
export interface ProfileTrialView extends ProfileTrial {
  nearest: ProfileFit[];
}

/** GET /api/v1/profiles */
export interface ProfileView {
  version: number;
  /** Devices that have it. */
  devices: number;
  profile: Profile;
}

/** One message of the wire. */
export interface WireMessageView extends TopicMeaning {
  at: string;
  topic: string;
  /** As text where it is text, else as hexadecimal. */
  text: string;
  /** The bytes, up to 2000 of them. */
  hex: string;
  /** How many there are. */
  bytes: number;
  retained: boolean;
  /** Written by the service itself, or by hand through it. */
  own: boolean;
}

/** Events of GET /api/v1/wire, by name. */
export interface WireEvents {
  /** `masks`: while this is watched, the broker cannot tell that nobody listens to commands. */
  hello: { filter: string; masks: boolean };
  message: WireMessageView;
  /** So many were left out, for there were more than anybody can read. */
  skipped: { count: number };
  /** Instances that write commands too and of which nothing is heard: what they write is not shown. Empty: all is shown again. */
  missing: { instances: readonly string[] };
  ended: { why: string };
}

/** A device proven step by step: the run that stands, or a record. */
export interface CommissioningView {
  id: string;
  /** It is not under way any more, and did not come to its end: the service stopped meanwhile. */
  interrupted: boolean;
  startedBy: string;
  startedAt: string;
  /** null: not every step is over. */
  finishedAt: string | null;
  steps: (Omit<CommissioningStep, "at"> & { at: string | null })[];
}

/** One version of a description. */
export interface VersionRecordView {
  version: number;
  /** null: from before versions were kept. */
  savedAt: string | null;
  /** The name of who saved it, as it was then; null: from before versions were kept. */
  savedBy: string | null;
  /** Whether it is in effect now. None is, when the description is deleted. */
  current: boolean;
}

/** The kinds of descriptions that have versions. */
export type DescriptionKind = "site" | "profile" | "inlet" | "notification";

/** GET /api/v1/descriptions/<kind>/<slug>/versions/<version> */
export interface DescriptionVersionView {
  version: number;
  description: SiteDescription | Profile | InletDescription | NotificationDescription;
  /** The version that is in effect now; 0: the description is deleted. */
  current: number;
  /** What saving it again would change, place by place. */
  changes: AuditChange[];
}

/** POST /api/v1/descriptions/<kind>/<slug>/check: nothing is saved. */
export interface DescriptionCheckView {
  /** The version that it was compared with; 0: there is none of this identifier. */
  version: number;
  /** What saving it would change, place by place. */
  changes: AuditChange[];
  /** What keeps it from being saved, and what is doubtful. `at` is a place in it, like `rooms[0].name` or `devices/finch/porch`. */
  findings: Finding[];
  /** Which route, inlet or rule would reach which channels no more, or now. */
  reach: ReachChange[];
}

/** POST /api/v1/translators/check */
export interface PlanCheckView {
  /** How many devices the plan has. */
  devices: number;
  /** `at` is a place in the plan, like `devices[0].reach.url`. */
  findings: Finding[];
}
