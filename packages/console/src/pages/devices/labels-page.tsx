/** Labels for a device's channels, to print and stick beside them: scanned with a telephone they open the channel. */

import { Link, useParams } from "wouter";
import { useDevices } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, STRONG } from "../../parts/form.tsx";
import { Plate } from "../../parts/plate.tsx";
import { QrCode } from "../../parts/qr-code.tsx";

export function LabelsPage() {
  const { site, device: slug } = useParams();
  const { data: devices } = useDevices();
  const device = devices?.find(({ address }) => address === `${site}/${slug}`);
  if (!device) return null;
  return (
    <div className="px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3 print:p-0">
      <div className="print:hidden">
        <Link to={`/devices/${device.address}`} className={QUIET}>
          {device.name}
        </Link>
        <h1 className="text-page">Labels of the {device.name}</h1>
        <p className="mt-1 max-w-[620px] text-soft">
          Print the labels and stick each one beside its channel. A signed-in member who scans one sees the state of the
          channel, and can switch it with the right to do so.
        </p>
        <Button onClick={() => window.print()} className={`${STRONG} mt-3`}>
          Print
        </Button>
      </div>
      <ul className="mt-6 grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-3 print:mt-0 print:grid-cols-2">
        {device.channels.map(({ address, name }) => (
          <li
            key={address}
            data-label={address}
            className="flex break-inside-avoid items-center gap-4 rounded-key border border-soft bg-[#ffffff] p-3 text-[#1a1e1d] [--color-letters:#f6f7f4] [--color-plate:#22282a]"
          >
            <QrCode text={`${window.location.origin}/history/${address}`} label={`QR code of ${address}`} />
            <span className="min-w-0">
              <Plate name={name} />
              <span className="mt-1.5 block">{device.room.name}</span>
              <span className="block font-mono text-[12px] [overflow-wrap:anywhere]">{address}</span>
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
