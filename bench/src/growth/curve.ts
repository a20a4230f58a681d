/** How a cost grows with a size: the points that were measured, and the exponent of the power that fits them. */

export interface Curve {
  /** What grows: "channels" */
  readonly of: string;
  /** What is measured, with its unit: "request by name, ms" */
  readonly cost: string;
  readonly points: readonly Point[];
}

export interface Point {
  readonly size: number;
  readonly cost: number;
}

/**
 * The slope of a straight line through the points on paper that is logarithmic both ways (least squares): 0 does not grow, 1 grows as the
 * size does.
 *
 * @example exponentOf([{ size: 1, cost: 2 }, { size: 10, cost: 20 }]) // → 1
 */
export function exponentOf(points: readonly Point[]): number {
  const xs = points.map(({ size }) => Math.log(size));
  const ys = points.map(({ cost }) => Math.log(cost));
  const mean = (values: readonly number[]) => values.reduce((sum, one) => sum + one, 0) / values.length;
  const [middleX, middleY] = [mean(xs), mean(ys)];
  const along = xs.reduce((sum, x, index) => sum + (x - middleX) * ((ys[index] ?? 0) - middleY), 0);
  const across = xs.reduce((sum, x) => sum + (x - middleX) ** 2, 0);
  return along / across;
}

/** The middle of what was measured. */
export function median(values: readonly number[]): number {
  return [...values].sort((one, other) => one - other)[Math.floor(values.length / 2)] ?? Number.NaN;
}
