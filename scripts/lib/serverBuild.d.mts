export function workerArguments(): Promise<string[]>;
