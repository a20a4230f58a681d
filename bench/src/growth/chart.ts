/** Curves as a drawing: one small frame for each, logarithmic both ways, with its points and its exponent. */
import { type Curve, exponentOf, type Point } from "./curve.ts";

const [WIDTH, HEIGHT, COLUMNS] = [300, 190, 3];
const [LEFT, RIGHT, TOP, BOTTOM] = [52, 14, 44, 30];

export function chartOf(curves: readonly Curve[]): string {
  const rows = Math.ceil(curves.length / COLUMNS);
  const frames = curves.map(
    (curve, index) =>
      `<g transform="translate(${(index % COLUMNS) * WIDTH} ${Math.floor(index / COLUMNS) * HEIGHT})">${frameOf(curve)}</g>`,
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH * COLUMNS} ${rows * HEIGHT}" font-family="sans-serif" font-size="11">
<rect width="100%" height="100%" fill="#fff"/>
${frames.join("\n")}
</svg>
`;
}

function frameOf({ of, cost, points }: Curve): string {
  const x = scaleOf(
    points.map(({ size }) => size),
    LEFT,
    WIDTH - RIGHT,
  );
  const y = scaleOf(
    points.map(({ cost: one }) => one),
    HEIGHT - BOTTOM,
    TOP,
  );
  const at = ({ size, cost: one }: Point) => `${x(size).toFixed(1)},${y(one).toFixed(1)}`;
  const costs = points.map(({ cost: one }) => one);
  return [
    `<text x="12" y="18" font-weight="bold">${cost}</text>`,
    `<text x="12" y="33" fill="#555">by ${of}: exponent ${exponentOf(points).toFixed(2)}</text>`,
    `<path d="M${LEFT} ${TOP}V${HEIGHT - BOTTOM}H${WIDTH - RIGHT}" fill="none" stroke="#999"/>`,
    ...points.map(({ size }) => label(x(size), HEIGHT - BOTTOM + 14, "middle", shortText(size))),
    ...[Math.min(...costs), Math.max(...costs)].map((one) => label(LEFT - 5, y(one) + 4, "end", numberText(one))),
    `<polyline points="${points.map(at).join(" ")}" fill="none" stroke="#b4530a" stroke-width="2"/>`,
    ...points.map(
      (point) => `<circle cx="${x(point.size).toFixed(1)}" cy="${y(point.cost).toFixed(1)}" r="3" fill="#b4530a"/>`,
    ),
  ].join("");
}

/** At least a decade, so that what does not grow looks like it. */
function scaleOf(values: readonly number[], from: number, to: number): (value: number) => number {
  const [least, most] = [Math.log10(Math.min(...values)), Math.log10(Math.max(...values))];
  const room = Math.max(0, 1 - (most - least)) / 2;
  const [low, high] = [least - room, most + room];
  return (value) => from + ((Math.log10(value) - low) / (high - low)) * (to - from);
}

function label(x: number, y: number, anchor: string, text: string): string {
  return `<text x="${x.toFixed(1)}" y="${y.toFixed(1)}" text-anchor="${anchor}" fill="#333">${text}</text>`;
}

/** @example shortText(10_000) // → "10 k" */
function shortText(size: number): string {
  if (size >= 1_000_000) return `${size / 1_000_000} M`;
  return size >= 1_000 ? `${size / 1_000} k` : String(size);
}

export function numberText(value: number): string {
  return value >= 100 ? value.toFixed(0) : value.toPrecision(2);
}
