/** Private servers on loopback: for the demo, the tests and the benchmark. */
export * from "./balancer.ts";
export * from "./broker.ts";
export * from "./certificates.ts";
export * from "./child.ts";
export { ClusterStack } from "./cluster/cluster-stack.ts";
export { namespaceProblem } from "./cluster/network.ts";
export type { ClusterNode, Part } from "./cluster/node.ts";
export * from "./line.ts";
export * from "./needs.ts";
export { createOwnerClient } from "./owner-client.ts";
export * from "./port.ts";
export * from "./postgres.ts";
export { SERVER_PROGRAM, setUp } from "./setup.ts";
