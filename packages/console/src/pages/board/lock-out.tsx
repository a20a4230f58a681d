/** Locking a channel out in one press, and letting it go: at once for the holder, with a reason for others. */
import type { ChannelView, LockoutView } from "@bold-relay/api";
import { formatAgo } from "@bold-relay/core";
import { Suspense, useState } from "react";
import { operate } from "../../api/operate.ts";
import { useMay, useMemberId } from "../../api/session.ts";
import { ReasonDialog } from "../../pages.ts";
import { Button } from "../../parts/button.tsx";

/** Shown when the row is pointed at or reached by keyboard; on a phone always. */
export function LockOut({ channel }: { channel: ChannelView }) {
  const mayOperate = useMay("operate", channel.address.split("/")[0]);
  const [trouble, setTrouble] = useState<string | null>(null);
  if (!mayOperate) return null;
  const lock = () => operate.lockOut({ target: channel.address }).catch((error: Error) => setTrouble(error.message));
  return (
    <span className="text-note">
      <Button
        onClick={() => void lock()}
        aria-label={`Lock out ${channel.name}, ${channel.room.name}`}
        className="text-act underline-offset-2 opacity-0 hover:underline focus-visible:opacity-100 group-hover:opacity-100 max-md:opacity-100"
      >
        Lock out
      </Button>
      {trouble && (
        <span role="alert" className="block text-wrong">
          {trouble}
        </span>
      )}
    </span>
  );
}

interface LockedOutProps {
  readonly channel: ChannelView;
  readonly lockout: LockoutView;
  readonly now: number;
}

export function LockedOut({ channel, lockout, now }: LockedOutProps) {
  const me = useMemberId();
  const [asking, setAsking] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const release = (reason?: string) =>
    operate.release(lockout.id, reason === undefined ? {} : { reason }).then(
      () => setAsking(false),
      (error: Error) => setTrouble(error.message),
    );
  return (
    <div className="text-note leading-[17px]">
      <p className="font-semibold text-wrong">Locked out by {lockout.holder}</p>
      <p className="text-soft">
        {lockout.wholeDevice && "whole device, "}
        {lockout.reason ?? formatAgo(now - Date.parse(lockout.since))},{" "}
        <Button
          onClick={() => (lockout.holderId === me ? void release() : setAsking(true))}
          aria-label={`Release ${channel.name}, ${channel.room.name}`}
          className="text-act underline underline-offset-2"
        >
          Release
        </Button>
      </p>
      {trouble && !asking && (
        <p role="alert" className="text-wrong">
          {trouble}
        </p>
      )}
      {asking && (
        <Suspense fallback={null}>
          <ReasonDialog
            open={asking}
            title={`Release ${channel.name}, ${channel.room.name}?`}
            text={`${lockout.holder} locked this channel out. Hands may be in the panel. Make sure that nobody works there, then give the reason.`}
            verb="Release"
            trouble={trouble}
            onClose={() => setAsking(false)}
            onReason={(reason) => void release(reason)}
          />
        </Suspense>
      )}
    </div>
  );
}
