export interface ClusterNode {
  readonly port: number;
  readonly isAlive: boolean;
  start(isFirst?: boolean): Promise<void>;
  kill(signal: NodeJS.Signals): Promise<void>;
}

export function startCluster(
  folder: string,
  count?: number,
): Promise<{ readonly nodes: ClusterNode[]; url(name: string): string; stop(): Promise<void> }>;
