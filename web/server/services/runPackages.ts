import { Readable } from 'node:stream';
import { KinkajouError } from '@kinkajou/core/errors';
import { createNamer } from '@kinkajou/core/parcel/names';
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { handoffs, jobs } from '../db/schema.ts';
import { findRun, type WholeRun } from './runs.ts';
import { readOfPackage, withPackage } from './unpackPackage.ts';
import { createZip } from './zipBlob.ts';

/** Lists what is not in the zip, and why. */
const NOT_HERE = 'not in here.txt';

interface Made {
  folder: string;
  zip: string;
}

/** Packages that a run asked for, by how they stand. */
interface PackageCounts {
  made: number;
  going: number;
  lost: number;
}

/** A run, and how far its packages are. */
export interface RunWithPackages extends WholeRun {
  packages: PackageCounts;
}

/** A run with how its packages stand, which are made after it. */
export async function runWithPackages(id: string): Promise<RunWithPackages> {
  const run = await findRun(id);
  const wanted = await packagesWanted(run);
  const counts = { made: 0, going: 0, lost: 0 };
  for (const { row } of wanted) counts[packageState(row)] += 1;
  return { ...run, packages: counts };
}

function packageState(row: PackageRow | undefined): 'made' | 'going' | 'lost' {
  if (isMade(row)) return 'made';
  return isGoing(row) ? 'going' : 'lost';
}

/**
 * Packages of a run with a folder's name for each, and what could not be made. Throws `run.packages` while
 * some are being made, or where there is none.
 */
export async function packagesToGive(id: string): Promise<{ title: string; made: Made[]; lost: string[] }> {
  const run = await findRun(id);
  const wanted = await packagesWanted(run);
  if (wanted.length === 0)
    throw new KinkajouError('run.packages', 'this run made no packages', {}, 'Hand the assets off first.');
  const going = wanted.filter(({ row }) => isGoing(row)).length;
  if (going > 0)
    throw new KinkajouError(
      'run.packages',
      `${going === 1 ? 'one package is' : `${going} packages are`} still being made`,
      {},
      'Ask again when they are done.',
    );
  const several = new Set(wanted.map(({ destination }) => destination)).size > 1;
  const nameFolder = createNamer();
  const made: Made[] = [];
  const lost: string[] = [];
  for (const { name, destination, row } of wanted) {
    if (row?.zip && isMade(row))
      made.push({ folder: nameFolder(several ? `${name} ${destination}` : name, 'asset'), zip: row.zip });
    else lost.push(`${name} for ${destination}: ${row?.fault?.message ?? 'it was not made'}`);
  }
  return { title: run.title, made, lost };
}

/**
 * All packages of a run as one zip; what could not be made is named in a file. Throws as {@link
 * packagesToGive}.
 */
export async function packagesOfRun(id: string): Promise<{ fileName: string; stream: Readable }> {
  const { title, made, lost } = await packagesToGive(id);
  return {
    fileName: `${title.replaceAll(/[^\p{L}\p{N}._ -]+/gu, '_')}.zip`,
    stream: await zipOf(made, lost),
  };
}

type PackageRow = Awaited<ReturnType<typeof packagesSince>>[number];

/** One whose reading back failed is kept for whoever looks into it, and not handed out with the others. */
function isMade(row: PackageRow | undefined): boolean {
  return row !== undefined && row.zip !== null && row.state === 'done';
}

function isGoing(row: PackageRow | undefined): boolean {
  return row?.state === 'queued' || row?.state === 'running';
}

/** What was asked for, each with the last package of its asset and destination. */
async function packagesWanted({
  id,
  outcomes,
}: WholeRun): Promise<{ name: string; destination: string; row: PackageRow | undefined }[]> {
  const asked = outcomes.flatMap((outcome) =>
    outcome.handOffs.map((destination) => ({ asset: outcome.id, name: outcome.name, destination })),
  );
  if (asked.length === 0) return [];
  const rows = new Map(
    (await packagesSince(id, [...new Set(asked.map(({ asset }) => asset))])).map((row) => [
      `${row.assetId} ${row.destination}`,
      row,
    ]),
  );
  return asked.map(({ asset, name, destination }) => ({
    name,
    destination,
    row: rows.get(`${asset} ${destination}`),
  }));
}

function packagesSince(run: string, assets: string[]) {
  const since = db().select({ at: jobs.createdAt }).from(jobs).where(eq(jobs.id, run));
  return db()
    .select({
      assetId: handoffs.assetId,
      destination: handoffs.destination,
      zip: handoffs.zip,
      state: jobs.state,
      fault: jobs.fault,
    })
    .from(handoffs)
    .innerJoin(jobs, eq(jobs.id, handoffs.id))
    .where(and(inArray(handoffs.assetId, assets), sql`${handoffs.createdAt} >= (${since})`))
    .orderBy(asc(handoffs.createdAt));
}

/** Packages are opened when their turn comes: the whole is never held, and no more than one file is open. */
async function zipOf(made: readonly Made[], lost: readonly string[]): Promise<Readable> {
  const { zip, stream } = createZip();
  for (const { folder, zip: hash } of made)
    for (const path of await withPackage(hash, async ({ files }) => files.map((file) => file.path)))
      zip.addReadStreamLazy(`${folder}/${path}`, { compress: !PACKED.test(path) }, (take) =>
        readOfPackage(hash, path).then(
          (bytes) => take(null, Readable.from([bytes])),
          (error: Error) => take(error, Readable.from([])),
        ),
      );
  if (lost.length > 0) zip.addBuffer(Buffer.from(`${lost.join('\n')}\n`), NOT_HERE);
  zip.end();
  return stream;
}

/** What does not get smaller. */
const PACKED = /\.(png|jpe?g|glb|usdz|exr)$/i;
