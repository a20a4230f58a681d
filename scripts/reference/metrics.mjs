// The reference of metrics: what the registry holds.
import { Metrics } from "../../packages/service/src/platform/metrics.ts";
import { page, table } from "./markdown.mjs";

export function metricsPage() {
  const metrics = new Metrics();
  const none = () => 0;
  metrics.watch(new Proxy({}, { get: () => none }));
  const ours = metrics.registry.getMetricsAsArray().filter(({ name }) => name.startsWith("bold_relay_"));
  return page(
    "Metrics",
    [
      "`GET /metrics` answers in the Prometheus text format to whoever shows a key that may see every site. A key with",
      "`--most user` is enough: `bold-relay key add monitoring --most user`. The usual `process_…` and `nodejs_…` metrics are there, too.",
    ].join("\n"),
    table(
      ["metric", "kind", "labels", "meaning"],
      ours.map((metric) => [
        `\`${metric.name}\``,
        metric.constructor.name.toLowerCase(),
        metric.labelNames.join(", "),
        metric.help,
      ]),
    ),
  );
}
