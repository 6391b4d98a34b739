export interface Supervised {
  wasWell: boolean;
  stop(): Promise<void>;
}

export interface SuperviseOptions {
  label: string;
  args: string[];
  cwd: string;
  env: NodeJS.ProcessEnv;
  dataFolder: string;
  onEnd(end: { again: boolean; reason: number }): void;
}

export function pauseBefore(recentEnds: number): number;
export function supervise(options: SuperviseOptions): Promise<Supervised>;
