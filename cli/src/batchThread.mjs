import { register } from 'tsx/esm/api';

// A thread of its own, whatever started it: the loader of its host is not relied on.
register();
const { workInThread } = await import(new URL('./batchWork.ts', import.meta.url).href);
const { workerData } = await import('piscina');

/** Settles and hands off one asset. */
export default function work(task) {
  return workInThread(task, workerData);
}
