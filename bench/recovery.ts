import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import {
  type Measured,
  measurePackage,
  type OpenFinding,
  questionsOf,
} from '@kinkajou/demo/scramble/measure';
import { type ScrambleCase, type ScrambledParcel, scramble } from '@kinkajou/demo/scramble/scramble';
import { scrambleTable } from '@kinkajou/demo/scramble/table';
import { main } from '../cli/src/main.ts';

/**
 * `npm run recovery [WORD]`: breaks assets of known truth in the ways of the table, hands each off by the
 * command line with safe mends alone, and compares the pixels of the packages with the truth. WORD picks
 * kinds that hold it.
 */
export interface Recovered {
  of: ScrambleCase;
  id: string;
  measured: Measured[];
  questions: OpenFinding[];
  verdict: string;
  exit: number;
}

/** One parcel through the command line's own path. */
export async function recover(
  of: ScrambleCase,
  folder: string,
  parcel?: ScrambledParcel,
): Promise<Recovered> {
  parcel ??= await scramble(of);
  const [input, out] = [join(folder, 'in'), join(folder, 'out')];
  await rm(input, { recursive: true, force: true });
  await rm(out, { recursive: true, force: true });
  for (const [path, bytes] of Object.entries(parcel.files)) {
    await mkdir(dirname(join(input, path)), { recursive: true });
    await writeFile(join(input, path), bytes);
  }
  const { exit, text } = await quietly(() =>
    main(['handoff', input, '--to', 'web-gltf', '--out', out, '--mend', 'safe', '--json']),
  );
  const receipt = JSON.parse(text);
  const glb = await readFile(join(out, `${of.asset}.glb`));
  const measured = await measurePackage(parcel, new Uint8Array(glb), receipt.remaining, of);
  return {
    of,
    id: parcel.id,
    measured,
    questions: questionsOf(receipt.remaining),
    verdict: receipt.verdict,
    exit,
  };
}

/** What a command prints, kept instead of shown. */
async function quietly(work: () => Promise<number>): Promise<{ exit: number; text: string }> {
  const [stdout, stderr] = [process.stdout.write, process.stderr.write];
  let text = '';
  process.stdout.write = (chunk: string | Uint8Array) => {
    text += chunk;
    return true;
  };
  process.stderr.write = () => true;
  try {
    return { exit: await work(), text };
  } finally {
    process.stdout.write = stdout;
    process.stderr.write = stderr;
  }
}

interface Tally {
  parcels: number;
  right: number;
  missing: number;
  wrong: number;
  untold: number;
  needless: number;
  unasked: number;
}

function tallyOf(list: readonly Recovered[]): Tally {
  const tally: Tally = {
    parcels: list.length,
    right: 0,
    missing: 0,
    wrong: 0,
    untold: 0,
    needless: 0,
    unasked: 0,
  };
  for (const { of, measured, questions } of list) {
    if (of.asks) {
      // Asked rightly: nothing may be filled, and each material is asked about.
      tally.unasked += measured.filter(({ outcome, told }) => outcome === 'wrong' || !told).length;
      continue;
    }
    for (const { outcome, told } of measured) {
      tally[outcome] += 1;
      if (outcome !== 'right' && !told) tally.untold += 1;
    }
    tally.needless += questions.length;
  }
  return tally;
}

function row(name: string, { parcels, right, missing, wrong, untold, needless, unasked }: Tally): string {
  const all = right + missing + wrong;
  const share = all > 0 ? `${((100 * right) / all).toFixed(1)}%` : '-';
  return `${name.padEnd(22)} ${String(parcels).padStart(4)} ${share.padStart(7)} ${[missing, wrong, untold, needless, unasked].map((n) => String(n).padStart(8)).join('')}`;
}

async function run(word: string): Promise<void> {
  const table = scrambleTable().filter(({ kind }) => kind.includes(word));
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-recovery-'));
  const done: Recovered[] = [];
  for (const of of table) {
    const result = await recover(of, folder);
    done.push(result);
    const bad = of.asks
      ? result.measured.filter(({ outcome, told }) => outcome === 'wrong' || !told)
      : result.measured.filter(({ outcome }) => outcome !== 'right');
    if (bad.length > 0 || (!of.asks && result.questions.length > 0)) {
      console.log(`${result.id} (${result.verdict}, exit ${result.exit})`);
      for (const { material, channel, outcome, told, difference } of bad)
        console.log(
          `  ${material}, ${channel}: ${outcome}${told ? ', told' : ', not told'}${difference === null ? '' : ` (${difference.toFixed(1)})`}`,
        );
      for (const { code, subject, message } of result.questions)
        console.log(`  asked: ${code} ${subject}: ${message}`);
    }
  }
  await rm(folder, { recursive: true, force: true });
  console.log(
    `\n${'kind'.padEnd(22)} ${'n'.padStart(4)} ${'right'.padStart(7)} ${['missing', 'wrong', 'untold', 'needless', 'unasked'].map((n) => n.padStart(8)).join('')}`,
  );
  for (const kind of new Set(done.map(({ of }) => of.kind)))
    console.log(row(kind, tallyOf(done.filter(({ of }) => of.kind === kind))));
  console.log(row('all', tallyOf(done)));
  const channels = new Map<string, Record<string, number>>();
  for (const { of, measured } of done) {
    if (of.asks) continue;
    for (const { channel, outcome } of measured) {
      const counts = channels.get(channel) ?? { right: 0, missing: 0, wrong: 0 };
      counts[outcome] += 1;
      channels.set(channel, counts);
    }
  }
  for (const [channel, { right, missing, wrong }] of channels)
    console.log(`${channel.padEnd(22)} right ${right}, missing ${missing}, wrong ${wrong}`);
}

if (process.argv[1]?.endsWith('recovery.ts')) await run(process.argv[2] ?? '');
