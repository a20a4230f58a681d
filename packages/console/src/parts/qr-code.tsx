/** A QR code (ISO/IEC 18004), dark on light whatever the theme: readers expect it so. */
import { encode } from "uqr";

export function QrCode({ text, label }: { text: string; label: string }) {
  const { data, size } = encode(text, { ecc: "M", border: 2 });
  const dark = data.flatMap((row, y) => row.flatMap((isDark, x) => (isDark ? `M${x} ${y}h1v1h-1z` : [])));
  return (
    <svg viewBox={`0 0 ${size} ${size}`} role="img" aria-label={label} className="size-[112px] shrink-0">
      <rect width={size} height={size} fill="#ffffff" />
      <path d={dark.join("")} fill="#000000" shapeRendering="crispEdges" />
    </svg>
  );
}
