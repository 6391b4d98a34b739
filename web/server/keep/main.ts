import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { Command, CommanderError } from 'commander';
import { pool } from '../db/client.ts';
import { runMigrations } from '../db/migrations.ts';
import { queue } from '../jobs/queue.ts';
import { exportToFile, importFromFile } from '../services/exported.ts';
import { shelfPage } from '../services/shelf.ts';
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

/**
 * `kinkajou backup`, `restore`, `export`, `import`, `sweep` and `doctor`: commands about a server's own data.
 * Returns the exit code.
 */
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
        for (const line of json ? [JSON.stringify(told.value, null, 2)] : told.lines)
          process.stdout.write(`${line}\n`);
        exit = told.exit ?? EXIT.done;
      });
  command('backup', 'write database and contents into one file, while the server runs', tellBackup).argument(
    '<file>',
  );
  command(
    'restore',
    'put a backup into an empty database and its contents into the store',
    tellRestore,
  ).argument('<file>');
  command('export', 'write one asset, its parcel and its edit log into a file', tellExport)
    .argument('<asset>', 'its id or its name')
    .argument('<file>');
  command('import', 'take an exported asset in, with its edit log', tellImport).argument('<file>');
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
  }
}

/** Lets go of the database, so that the program can end. */
export async function letGo(args: readonly string[]): Promise<void> {
  if (args[0] === 'import') await (await queue()).stop({ graceful: false }).catch(() => undefined);
  await pool()
    .end()
    .catch(() => undefined);
}

const NO_DATABASE = new KinkajouError(
  'database.gone',
  'the database does not answer',
  {},
  'Start it, or set DATABASE_URL to where it is.',
);

async function tellBackup(file: string): Promise<Told> {
  const made = await backUp(file);
  const lacking = made.lacking.map(
    (hash) => `  the content ${hash} is missing or was changed; "kinkajou doctor" tells more`,
  );
  const lines = [
    `${made.file}: ${made.blobs} contents, ${made.bytes.toLocaleString('en')} bytes`,
    ...lacking,
  ];
  return { value: made, lines, exit: lacking.length > 0 ? EXIT.errorsRemain : EXIT.done };
}

async function tellRestore(file: string): Promise<Told> {
  const manifest = await restore(file);
  await runMigrations();
  return { value: manifest, lines: [`restored as of ${manifest.made}, with ${manifest.blobs} contents`] };
}

async function tellExport(which: string, file: string): Promise<Told> {
  const id = await assetCalled(which);
  const made = await exportToFile(id, file);
  return { value: { asset: id, ...made }, lines: [`${made.file}: ${made.bytes.toLocaleString('en')} bytes`] };
}

async function tellImport(file: string): Promise<Told> {
  const made = await importFromFile(file);
  return { value: made, lines: [`${made.name} is taken in; a worker reads it now`] };
}

/** The id of the asset that has it, or its name alone. Throws `asset.which` where none or several do. */
async function assetCalled(which: string): Promise<string> {
  const { assets } = await shelfPage();
  const found = assets.filter(({ id, name }) => id === which || name === which);
  if (found.length === 1) return found[0].id;
  if (found.length === 0)
    throw new KinkajouError('asset.which', `no asset on the shelf is called "${which}"`);
  const list = found.map(({ id, parcelName }) => `${id} (${parcelName})`).join(', ');
  throw new KinkajouError(
    'asset.which',
    `${found.length} assets are called "${which}"`,
    {},
    `Name one by its id: ${list}.`,
  );
}

async function tellSweep({ yes = false, hours }: { yes?: boolean; hours: string }): Promise<Told> {
  if (!(Number(hours) >= 0))
    throw new KinkajouError('call.hours', `--hours is "${hours}"; it takes a number`);
  const swept = await sweep({ yes, hours: Number(hours) });
  const verb = swept.done ? 'removed' : 'to be removed with --yes';
  const line = (what: string, { count, bytes }: { count: number; bytes: number }) =>
    `${count} ${what}, ${bytes.toLocaleString('en')} bytes: ${verb}`;
  const lines = [
    line('contents that nothing refers to', swept.blobs),
    line('pictures made of them', swept.pictures),
    line('files that never finished arriving', swept.uploads),
    ...swept.assets.map(
      ({ name }) => `${name} was taken off the shelf: ${verb}, with its edit log and handoffs`,
    ),
    ...swept.parcels.map(({ name }) => `the upload of ${name} was abandoned: ${verb}`),
  ];
  return { value: swept, lines };
}

async function tellDoctor(): Promise<Told> {
  const checked = await examine();
  const lines = checked.map(({ part, ok, text }) => `${ok ? 'ok' : 'NOT WELL'}  ${part}: ${text}`);
  return { value: { checked }, lines, exit: checked.every(({ ok }) => ok) ? EXIT.done : EXIT.errorsRemain };
}
