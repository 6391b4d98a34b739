import { isLoopback } from './doors.ts';

/**
 * Ends the server when it was told to listen where others reach it: there are no accounts yet, so whoever
 * reaches it may do everything. KINKAJOU_OPEN=yes is for those who have put a door of their own before it.
 */
export function checkAddress(args: readonly string[], end: (words: string) => void = refuse): void {
  if (process.env.KINKAJOU_OPEN === 'yes') return;
  const address = addressOf(args);
  if (isLoopback(address)) return;
  end(
    `The server would listen on ${address ?? 'every address of this machine'}, and there are no accounts yet: whoever reaches it may do everything. Start it with -H 127.0.0.1, or set KINKAJOU_OPEN=yes if another door stands before it.`,
  );
}

/** Whether the server was told to listen where this machine alone reaches it. */
export function listensHereAlone(args: readonly string[]): boolean {
  return isLoopback(addressOf(args));
}

function addressOf(args: readonly string[]): string | undefined {
  const place = args.findIndex((arg) => arg === '-H' || arg === '--hostname');
  const joined = args.find((arg) => arg.startsWith('--hostname='));
  return joined?.slice('--hostname='.length) ?? (place >= 0 ? args[place + 1] : undefined);
}

function refuse(words: string): void {
  process.stderr.write(`${words}\n`);
  process.exit(1);
}
