import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { Command, CommanderError } from 'commander';
import { pool } from '../db/client.ts';
import { runMigrations } from '../db/migrations.ts';
import { backUp, restore } from './backup.ts';
import { examine } from './doctor.ts';
import { sweep } from './sweep.ts';

const EXIT = { done: 0, errorsRemain: 1, unusable: 2 } as const;

/** What a command found, as JSON and as lines, and the exit code that goes with it. */
interface Told {
  value: unknown;
  lines: string[];
  exit?: number;
}

/** `kinkajou backup`, `restore`, `sweep` and `doctor`: commands about a server's own data. Returns the exit code. */
export async function keep(args: readonly string[]): Promise<number> {
  let exit: number = EXIT.done;
  const program = new Command('kinkajou').exitOverride();
  const command = (name: string, description: string, work: (...given: never[]) => Promise<Told>) =>
    program
      .command(name)
      .description(description)
      .option('--json', 'print one JSON document')
      .action(async (...given) => {
        const told = await work(...(given as never[]));
        const { json } = given[given.length - 2] as { json?: boolean };
        for (const line of json ? [JSON.stringify(told.value, null, 2)] : told.lines) process.stdout.write(`${line}\n`);
        exit = told.exit ?? EXIT.done;
      });
  command('backup', 'write database and contents into one file, while the server runs', tellBackup).argument('<file>');
  command('restore', 'put a backup into an empty database and its contents into the store', tellRestore).argument('<file>');
  command('sweep', 'tell what nothing refers to any more', tellSweep)
    .option('--yes', 'take it away')
    .option('--hours <number>', 'only what is older than so many hours', '24');
  command('doctor', 'look at database, contents by checksum, jobs, workers, disk and limits', tellDoctor);
  try {
    await program.parseAsync(args, { from: 'user' });
    return exit;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.done : EXIT.unusable;
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

async function tellBackup(file: string): Promise<Told> {
  const made = await backUp(file);
  const lacking = made.lacking.map((hash) => `  the content ${hash} is missing or was changed; "kinkajou doctor" tells more`);
  const lines = [`${made.file}: ${made.blobs} contents, ${made.bytes.toLocaleString('en')} bytes`, ...lacking];
  return { value: made, lines, exit: lacking.length > 0 ? EXIT.errorsRemain : EXIT.done };
}

async function tellRestore(file: string): Promise<Told> {
  const manifest = await restore(file);
  await runMigrations();
  return { value: manifest, lines: [`restored as of ${manifest.made}, with ${manifest.blobs} contents`] };
}

async function tellSweep({ yes = false, hours }: { yes?: boolean; hours: string }): Promise<Told> {
  if (!(Number(hours) >= 0)) throw new KinkajouError('call.hours', `--hours is "${hours}"; it takes a number`);
  const swept = await sweep({ yes, hours: Number(hours) });
  const verb = swept.done ? 'removed' : 'to be removed with --yes';
  const line = (what: string, { count, bytes }: { count: number; bytes: number }) => `${count} ${what}, ${bytes.toLocaleString('en')} bytes: ${verb}`;
  const lines = [
    line('contents that nothing refers to', swept.blobs),
    line('pictures made of them', swept.pictures),
    line('files that never finished arriving', swept.uploads),
    ...swept.parcels.map(({ name }) => `the upload of ${name} was abandoned: ${verb}`),
  ];
  return { value: swept, lines };
}

async function tellDoctor(): Promise<Told> {
  const checked = await examine();
  const lines = checked.map(({ part, ok, text }) => `${ok ? 'ok' : 'NOT WELL'}  ${part}: ${text}`);
  return { value: { checked }, lines, exit: checked.every(({ ok }) => ok) ? EXIT.done : EXIT.errorsRemain };
}
