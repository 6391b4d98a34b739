/** Threads that have work of their own. */
export type ThreadName = 'batchThread' | 'thread' | 'watchdog' | 'bakeThread';

export function builtFolder(): Promise<string | null>;
// biome-ignore lint/suspicious/noExplicitAny: each thread has another task
export function workOf(thread: ThreadName): Promise<(task: any) => Promise<unknown>>;
export function stampOf(root: string, sources: readonly string[]): Promise<string>;
