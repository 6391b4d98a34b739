import { Piscina } from 'piscina';
import { buffersOf } from './buffers.ts';
import { perform } from './tasks.ts';

// What libraries mutter about a file is not for whoever runs the program.
for (const level of ['log', 'info', 'warn', 'error'] as const) console[level] = () => undefined;

/** Does one task; what comes out is handed over, not copied. */
export default async function work(task: Parameters<typeof perform>[0]): Promise<unknown> {
  const result = await perform(task);
  const moved = { [Piscina.transferableSymbol]: buffersOf(result), [Piscina.valueSymbol]: result };
  return Piscina.move(moved as unknown as Parameters<typeof Piscina.move>[0]);
}
