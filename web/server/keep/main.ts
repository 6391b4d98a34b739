import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { pool } from '../db/client.ts';
import { runMigrations } from '../db/migrations.ts';
import { backUp, restore } from './backup.ts';
import { examine } from './doctor.ts';
import { sweep } from './sweep.ts';

type Print = (line: string) => void;

const EXIT = { done: 0, errorsRemain: 1, unusable: 2 } as const;

/** `kinkajou backup FILE`, `restore FILE`, `sweep [--yes] [--hours N]` and `doctor`, each with `--json`. Returns the exit code. */
export async function keep([command, ...args]: string[], print: Print = (line) => process.stdout.write(`${line}\n`)): Promise<number> {
  const json = args.includes('--json');
  const words = args.filter((arg) => arg !== '--json');
  const tell = (value: unknown, lines: string[]) => {
    if (json) print(JSON.stringify(value, null, 2));
    else for (const line of lines) print(line);
  };
  try {
    if (command === 'backup') {
      const made = await backUp(oneFile(words, command));
      const lacking = made.lacking.map((hash) => `  the content ${hash} is missing or was changed; "kinkajou doctor" tells more`);
      tell(made, [`${made.file}: ${made.blobs} contents, ${made.bytes.toLocaleString('en')} bytes`, ...lacking]);
      return made.lacking.length > 0 ? EXIT.errorsRemain : EXIT.done;
    }
    if (command === 'restore') {
      const manifest = await restore(oneFile(words, command));
      await runMigrations();
      tell(manifest, [`restored as of ${manifest.made}, with ${manifest.blobs} contents`]);
      return EXIT.done;
    }
    if (command === 'sweep') {
      const swept = await sweep(sweepOptions(words));
      const verb = swept.done ? 'removed' : 'to be removed with --yes';
      const line = (what: string, { count, bytes }: { count: number; bytes: number }) => `${count} ${what}, ${bytes.toLocaleString('en')} bytes: ${verb}`;
      tell(swept, [
        line('contents that nothing refers to', swept.blobs),
        line('pictures made of them', swept.pictures),
        line('files that never finished arriving', swept.uploads),
        ...swept.parcels.map(({ name }) => `the upload of ${name} was abandoned: ${verb}`),
      ]);
      return EXIT.done;
    }
    const checked = await examine();
    tell(
      { checked },
      checked.map(({ part, ok, text }) => `${ok ? 'ok' : 'NOT WELL'}  ${part}: ${text}`),
    );
    return checked.every(({ ok }) => ok) ? EXIT.done : EXIT.errorsRemain;
  } catch (error) {
    const typed = (error as { code?: string }).code === 'ECONNREFUSED' ? NO_DATABASE : toKinkajouError(error);
    process.stderr.write(`${typed.toText()}\n`);
    return EXIT.unusable;
  } finally {
    await pool()
      .end()
      .catch(() => undefined);
  }
}

const NO_DATABASE = new KinkajouError('database.gone', 'the database does not answer', {}, 'Start it, or set DATABASE_URL to where it is.');

function oneFile(words: readonly string[], command: string): string {
  if (words.length === 1 && !words[0].startsWith('-')) return words[0];
  throw new KinkajouError('call.file', `"kinkajou ${command}" takes one file`, {}, `Call it as "kinkajou ${command} FILE".`);
}

function sweepOptions(words: readonly string[]): { yes: boolean; hours?: number } {
  const place = words.indexOf('--hours');
  const hours = place < 0 ? undefined : Number(words[place + 1]);
  if (hours !== undefined && !(hours >= 0)) throw new KinkajouError('call.hours', '--hours takes a number');
  return { yes: words.includes('--yes'), ...(hours === undefined ? {} : { hours }) };
}
