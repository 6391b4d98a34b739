import { register } from 'tsx/esm/api';

// A thread of its own, whatever started it: the loader of its host is not relied on.
register();
const { bake } = await import(new URL('./bakeWorker.ts', import.meta.url).href);

export default bake;
