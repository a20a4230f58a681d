/** The curve of a reading: what was last read in each stretch of time, with its lowest and highest as a band. */
import type { TrendView } from "@bold-relay/api";
import { useEffect, useRef } from "react";
import UPlot from "uplot";
import { when } from "../../parts/time.ts";
import "uplot/dist/uPlot.min.css";

const HEIGHT = 220;

export default function ReadingChart({ history }: { history: TrendView }) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const box = place.current;
    if (!box) return;
    const chart = new UPlot(optionsFor(history, box.clientWidth), dataOf(history), box);
    const fit = new ResizeObserver(() => chart.setSize({ width: box.clientWidth, height: HEIGHT }));
    fit.observe(box);
    return () => {
      fit.disconnect();
      chart.destroy();
    };
  }, [history]);
  return <div ref={place} className="reading-chart mt-2" aria-hidden="true" />;
}

/** s, last, highest, lowest. A gap of more than a few stretches is one: nothing was read there. */
function dataOf({ readings }: TrendView): UPlot.AlignedData {
  const at = readings.map((point) => Date.parse(point.at) / 1000);
  return [at, readings.map(({ last }) => last), readings.map(({ high }) => high), readings.map(({ low }) => low)];
}

function optionsFor({ from, at, unit }: TrendView, width: number): UPlot.Options {
  const colour = (name: string) =>
    getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();
  const axis: UPlot.Axis = {
    stroke: colour("soft"),
    font: "13px Barlow",
    grid: { stroke: colour("hairline"), width: 1 },
    ticks: { stroke: colour("rule"), width: 1, size: 4 },
  };
  const edge: UPlot.Series = { stroke: "transparent", points: { show: false } };
  return {
    width,
    height: HEIGHT,
    padding: [12, 12, 0, 0],
    legend: { show: false },
    cursor: { show: false },
    scales: { x: { range: [Date.parse(from) / 1000, Date.parse(at) / 1000] } },
    axes: [
      { ...axis, values: (_, moments) => moments.map((seconds) => when.mark(seconds * 1000)) },
      { ...axis, size: 64, values: (_, values) => values.map((value) => `${value}${unit ? ` ${unit}` : ""}`) },
    ],
    series: [{}, { stroke: colour("ink"), width: 1.5, points: { show: false } }, edge, edge],
    bands: [{ series: [2, 3], fill: colour("act-wash") }],
  };
}
