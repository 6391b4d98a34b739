import { register } from 'tsx/esm/api';

// A thread of its own, whatever started it: the loader of its host is not relied on.
register();
const { perform } = await import(new URL('./tasks.ts', import.meta.url).href);
const { buffersOf } = await import(new URL('./buffers.ts', import.meta.url).href);
const { Piscina } = await import('piscina');
// What libraries mutter about a file is not for whoever runs the program.
for (const level of ['log', 'info', 'warn', 'error']) console[level] = () => undefined;

/** Does one task; what comes out is handed over, not copied. */
export default async function work(task) {
  const result = await perform(task);
  return Piscina.move({ [Piscina.transferableSymbol]: buffersOf(result), [Piscina.valueSymbol]: result });
}
