/** Locking a channel out in one press, and letting it go: at once for the holder, with a reason for others. */
import type { ChannelView, LockoutView } from "@bold-relay/api";
import { formatAgo } from "@bold-relay/core";
import { Button, Dialog, DialogPanel, DialogTitle, Field, Input, Label } from "@headlessui/react";
import { type FormEvent, useState } from "react";
import { client, useMemberName } from "../../api/queries.ts";

/** Shown when the row is pointed at or reached by keyboard; on a phone always. */
export function LockOut({ channel }: { channel: ChannelView }) {
  const [trouble, setTrouble] = useState<string | null>(null);
  const lock = () => client.lockOut({ target: channel.address }).catch((error: Error) => setTrouble(error.message));
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
  const me = useMemberName();
  const [asking, setAsking] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const release = (reason?: string) =>
    client.release(lockout.id, reason === undefined ? {} : { reason }).then(
      () => setAsking(false),
      (error: Error) => setTrouble(error.message),
    );
  return (
    <div className="text-note leading-[17px]">
      <p className="font-semibold text-wrong">Locked out by {lockout.holder}</p>
      <p className="text-soft">
        {lockout.wholeDevice && "whole board, "}
        {lockout.reason ?? formatAgo(now - Date.parse(lockout.since))},{" "}
        <Button
          onClick={() => (lockout.holder === me ? void release() : setAsking(true))}
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
      <ReasonDialog
        open={asking}
        channel={channel}
        holder={lockout.holder}
        trouble={trouble}
        onClose={() => setAsking(false)}
        onReason={(reason) => void release(reason)}
      />
    </div>
  );
}

interface ReasonDialogProps {
  readonly open: boolean;
  readonly channel: ChannelView;
  readonly holder: string;
  readonly trouble: string | null;
  readonly onClose: () => void;
  readonly onReason: (reason: string) => void;
}

function ReasonDialog({ open, channel, holder, trouble, onClose, onReason }: ReasonDialogProps) {
  function submit(event: FormEvent<HTMLFormElement>): void {
    event.preventDefault();
    onReason(String(new FormData(event.currentTarget).get("reason")));
  }
  return (
    <Dialog open={open} onClose={onClose} className="relative z-20">
      <div className="fixed inset-0 flex items-center justify-center bg-plate/40 p-4">
        <DialogPanel className="w-full max-w-[420px] border border-rule bg-sheet p-5">
          <DialogTitle className="text-title">
            Release {channel.name}, {channel.room.name}?
          </DialogTitle>
          <p className="mt-2">
            It is {holder}'s lock-out: their hands may be in the panel. Make sure that they are not, and say why you
            release it.
          </p>
          <form onSubmit={submit} className="mt-4">
            <Field className="flex flex-col gap-1">
              <Label className="font-medium font-plate">Reason</Label>
              <Input
                name="reason"
                required
                maxLength={200}
                autoFocus
                className="h-9 rounded-key border border-soft bg-enclosure px-2.5"
              />
            </Field>
            {trouble && (
              <p role="alert" className="mt-2 text-note text-wrong">
                {trouble}
              </p>
            )}
            <div className="mt-4 flex gap-2">
              <Button type="submit" className="h-8 rounded-key bg-act px-3 font-semibold text-letters text-note">
                Release it
              </Button>
              <Button onClick={onClose} className="h-8 rounded-key border border-soft px-3 font-semibold text-note">
                Keep it locked out
              </Button>
            </div>
          </form>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
