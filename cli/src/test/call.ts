import { vi } from 'vitest';
import { main } from '../main.ts';

export interface Called {
  exit: number;
  out: string;
  err: string;
}

/** Calls the program in this process, from a folder; what it printed comes back with its exit code. */
export async function callIn(folder: string, args: readonly string[]): Promise<Called> {
  const told = { out: '', err: '' };
  const listen = (stream: 'stdout' | 'stderr', to: 'out' | 'err') =>
    vi.spyOn(process[stream], 'write').mockImplementation((text) => {
      told[to] += text;
      return true;
    });
  const spies = [listen('stdout', 'out'), listen('stderr', 'err')];
  const home = process.cwd();
  process.chdir(folder);
  try {
    return { exit: await main([...args]), ...told };
  } finally {
    process.chdir(home);
    for (const spy of spies) spy.mockRestore();
  }
}
