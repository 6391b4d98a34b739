import { readFile, stat, writeFile } from 'node:fs/promises';
import { basename, dirname, relative, resolve } from 'node:path';
import { KinkajouError } from '@kinkajou/core/errors';
import {
  formatJoined,
  JOINED,
  type JoinedFile,
  parseJoined,
  plainModel,
} from '@kinkajou/core/join/joinedFile';
import { extensionOf, stemOf } from '@kinkajou/core/parcel/fileSource';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { readModel } from '@kinkajou/core/readModel';
import type { Vec3 } from '@kinkajou/core/scene/document';
import { EXIT, type Output } from './output.ts';
import { readLog } from './rules.ts';

interface CallOptions {
  name?: string;
  at?: string;
  turn?: string;
  scale?: string;
  log?: string;
  replace?: boolean;
  json?: boolean;
}

/** Writes a file that names two models as one, or one more beside those that a joined file names already. */
export async function runJoin(
  [out, base, other]: [string, string, string],
  call: CallOptions,
  output: Output,
): Promise<number> {
  if (extensionOf(out) !== JOINED)
    throw new KinkajouError(
      'call.out',
      'several models as one are a .joined file',
      { file: out },
      'Give it that extension.',
    );
  if (!call.replace && (await stat(out).catch(() => null)))
    throw new KinkajouError(
      'out.occupied',
      'there is a file already',
      { file: out },
      'Name another, or say --replace.',
    );
  for (const path of [base, other])
    if (!(await stat(path).catch(() => null)))
      throw new KinkajouError(
        'source.missing',
        'there is nothing at this path',
        { file: path },
        'Check the spelling.',
      );
  const folder = dirname(resolve(out));
  const before: JoinedFile =
    extensionOf(base) === JOINED && dirname(resolve(base)) === folder
      ? parseJoined(await readFile(base), base)
      : { models: [plainModel(under(folder, base))] };
  const added = {
    ...plainModel(under(folder, other)),
    name: call.name ?? stemOf(basename(other)),
    at: numbersOf('--at', call.at ?? '0,0,0', 3) as Vec3,
    turn: numbersOf('--turn', call.turn ?? '0', 1)[0],
    scale: numbersOf('--scale', call.scale ?? '1', 1)[0],
    edits: call.log ? await readLog(call.log) : [],
  };
  if (!(added.scale > 0))
    throw new KinkajouError('call.number', `--scale is ${call.scale}`, {}, 'Give a number above 0.');
  const joined = { models: [...before.models, added] };
  const bytes = formatJoined(joined);
  // What cannot be read is not written.
  const source = await folderSource(folder, { limits: limitsFromEnvironment() });
  const name = basename(out);
  const trial = {
    ...source,
    files: [
      ...source.files.filter(({ path }) => path !== name),
      { path: name, size: bytes.length, modified: null },
    ],
  };
  const { nodes } = await readModel(name, {
    ...trial,
    read: async (path) => (path === name ? bytes : source.read(path)),
  }).finally(() => source.close());
  await writeFile(out, bytes);
  if (call.json) output.json({ file: out, ...joined, nodes: nodes.length });
  else output.text(`${out}: ${joined.models.length} models, ${nodes.length} nodes`);
  return EXIT.done;
}

/** A path as seen from the joined file's folder, below which everything must lie that it names. */
function under(folder: string, path: string): string {
  const seen = relative(folder, resolve(path)).replaceAll('\\', '/');
  if (seen.startsWith('../') || resolve(path) === folder)
    throw new KinkajouError(
      'call.join',
      'it does not lie below the folder of the joined file',
      { file: path },
      'Write the joined file into a folder that holds both.',
    );
  return seen;
}

function numbersOf(option: string, text: string, count: number): number[] {
  const numbers = text.split(',').map((part) => (part.trim() === '' ? Number.NaN : Number(part)));
  if (numbers.length !== count || numbers.some((number) => !Number.isFinite(number)))
    throw new KinkajouError(
      'call.number',
      `${option} is "${text}"`,
      {},
      count === 1 ? 'Give a number.' : `Give ${count} numbers, separated by commas.`,
    );
  return numbers;
}
