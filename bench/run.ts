import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { serialize, setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { readFbx } from '@kinkajou/core/formats/fbx/readFbx';
import { readGltf } from '@kinkajou/core/formats/gltf/readGltf';
import { readObj } from '@kinkajou/core/formats/obj/readObj';
import { readUsd } from '@kinkajou/core/formats/usd/readUsd';
import { writeModel } from '@kinkajou/core/formats/writeModel';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { previewGlb } from '@kinkajou/core/preview/previewGlb';
import { kitOf } from '@kinkajou/demo/bollardKit';
import { FBXLoader } from 'three/addons/loaders/FBXLoader.js';
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js';
import { bakeBare, bakeOurs, openKit } from './bakeKit.ts';
import { bigMap, decodeAndClassify, decodeOnly, SIDE } from './classify.ts';
import { extent } from './extent.ts';
import { gridDocument } from './grid.ts';
import { FILES, MISSING, matchLinks } from './links.ts';
import { MATERIALS, matchKit, whiteKit } from './sets.ts';
import { measureBare, measureOurs, sheetOf } from './shape.ts';
import { bigSet, convertBare, convertOurs } from './surface.ts';

/**
 * Generated sheets of quads, read by us and by three's loaders in this run, and by assimp's command as a
 * whole process; the ratio is the other's time over ours. Then OBJ's peak memory over the file's size, and
 * usdc's time over glTF's. With `--small` all of it runs over little, which says nothing of speed.
 */
const SIZES = [120_000, extent(1_000_000, 2000)].slice(extent(0, 1));
const ROUNDS = extent(5, 1);
const FEW_ROUNDS = extent(3, 1);
const KIT_SIZE = extent(2048, 64);
const none = memorySource('bench', {});
const folder = mkdtempSync(join(tmpdir(), 'kinkajou-bench-'));

setFlagsFromString('--expose-gc');
const collectGarbage = runInNewContext('gc') as () => void;

// three's loaders look for a page; they read geometry without one.
Object.assign(globalThis, { window: globalThis, self: globalThis });

try {
  await benchMaps();
  await benchSets();
  await benchSurface();
  await benchKit();
  await benchShape();
  for (const size of SIZES) await benchSize(size);
} finally {
  rmSync(folder, { recursive: true });
}

async function benchMaps(): Promise<void> {
  matchLinks();
  const { ms, found } = matchLinks();
  console.log(
    `${count(MISSING)} missing paths among ${count(FILES)} files: ${ms.toFixed(0)} ms, ${(ms / 300).toFixed(2)} times the 300 allowed; ${found} found a candidate`,
  );
  for (const kind of ['colour', 'normal'] as const) {
    const bytes = await bigMap(kind);
    const [decoding, both] = await medians(
      FEW_ROUNDS,
      () => decodeOnly(bytes),
      () => decodeAndClassify(bytes),
    );
    console.log(
      `${SIDE}-square ${kind} map classified as ${await decodeAndClassify(bytes)}: decoding ${decoding.toFixed(0)} ms, with classification ${both.toFixed(0)} ms, ` +
        `${(both / decoding).toFixed(2)} times decoding`,
    );
  }
}

async function benchSets(): Promise<void> {
  const kit = await whiteKit();
  await matchKit(kit);
  const { reading, matching, filled } = await matchKit(kit);
  console.log(
    `${MATERIALS} materials and ${MATERIALS * 10} images: reading and looking ${reading.toFixed(0)} ms, matching ${matching.toFixed(0)} ms, ` +
      `${(matching / reading).toFixed(2)} of reading where 0.20 is allowed; ${filled} slots filled`,
  );
}

async function benchKit(): Promise<void> {
  const { files } = await kitOf(KIT_SIZE);
  const kit = await openKit(files);
  await bakeOurs(kit);
  const [bare, ours] = await medians(
    FEW_ROUNDS,
    () => bakeBare(kit),
    () => bakeOurs(kit),
  );
  const images = kit.plan.images.filter(({ copyOf }) => copyOf === null).length;
  console.log(
    `kit of ${kit.plan.materials.length} materials with ${KIT_SIZE}-square maps, ${images} images packed: ${ours.toFixed(0)} ms, a bare sharp script ${bare.toFixed(0)} ms, ` +
      `${(ours / bare).toFixed(2)} times that`,
  );
  const path = put('kit.bin', serialize(files));
  const peak = (way: string) =>
    Number(
      execFileSync(
        process.execPath,
        ['--import', 'tsx', new URL('bakeKit.ts', import.meta.url).pathname, way, path],
        { encoding: 'utf8' },
      ).trim(),
    );
  const [idle, byBare, byUs] = [peak('none'), peak('bare'), peak('ours')];
  console.log(
    `memory for it over a process that holds the kit: ${((byUs - idle) / 1e6).toFixed(0)} MB, the bare script ${((byBare - idle) / 1e6).toFixed(0)} MB`,
  );
}

async function benchSurface(): Promise<void> {
  const set = await bigSet();
  const [bare, ours] = await medians(
    FEW_ROUNDS,
    () => convertBare(set),
    () => convertOurs(set),
  );
  console.log(
    `${SIDE}-square set from metal/rough to spec/gloss: ${ours.toFixed(0)} ms, a bare sharp script ${bare.toFixed(0)} ms, ${(ours / bare).toFixed(2)} times that`,
  );
}

async function benchShape(): Promise<void> {
  const sheet = sheetOf(SIZES[SIZES.length - 1]);
  const [bare, ours] = await medians(
    FEW_ROUNDS,
    () => measureBare(sheet),
    () => measureOurs(sheet),
  );
  console.log(
    `facts of shape of ${count(sheet.faceCounts.length * 2)} triangles: ${ours.toFixed(0)} ms of the 2000 allowed, a bare pass over the corners ${bare.toFixed(0)} ms, ` +
      `${(ours / bare).toFixed(1)} times that`,
  );
}

async function benchSize(size: number): Promise<void> {
  const document = gridDocument(size);
  const triangles = document.meshes[0].faceCounts.length * 2;
  console.log(`\n${count(triangles)} triangles`);
  const write = (name: string, form: 'binary' | 'text' = 'binary') =>
    writeModel(document, name, { form }).files.get(name) as Uint8Array;
  const files = { binary: write('sheet.fbx'), text: write('sheet.fbx', 'text'), obj: write('sheet.obj') };
  const rounds = size > 500_000 ? FEW_ROUNDS : ROUNDS;
  const fbxByThree = (bytes: Uint8Array) => new FBXLoader().parse(new Uint8Array(bytes).buffer, '');

  await against(
    'FBX binary',
    rounds,
    files.binary,
    'fbx',
    async () => readFbx(files.binary, 'sheet.fbx'),
    () => fbxByThree(files.binary),
  );
  await against(
    'FBX text',
    rounds,
    files.text,
    'fbx',
    async () => readFbx(files.text, 'sheet.fbx'),
    () => fbxByThree(files.text),
  );
  const objByThree = () => new OBJLoader().parse(new TextDecoder().decode(files.obj));
  await against('OBJ', rounds, files.obj, 'obj', () => readObj(files.obj, 'sheet.obj', none), objByThree);

  const [empty, full] = [peakMemory(), peakMemory(put('peak.obj', files.obj))];
  console.log(
    `OBJ peak memory over an idle process: ${((full - empty) / files.obj.length).toFixed(2)} times the file of ${megabytes(files.obj)}`,
  );

  const [usdc, glb] = [write('sheet.usdc'), await previewGlb(document)];
  const reading = await medians(
    rounds,
    () => readUsd(usdc, 'sheet.usdc', none),
    () => readGltf(glb, 'sheet.glb', none),
  );
  const writing = await medians(
    rounds,
    () => write('sheet.usdc'),
    () => previewGlb(document),
  );
  for (const [verb, [usd, gltf]] of [
    ['read', reading],
    ['written', writing],
  ] as const)
    console.log(
      `usdc ${verb}: ${usd.toFixed(0)} ms, GLB ${gltf.toFixed(0)} ms, ${(usd / gltf).toFixed(2)} times its time`,
    );
}

async function against(
  name: string,
  rounds: number,
  bytes: Uint8Array,
  extension: string,
  ours: () => Promise<unknown>,
  theirs: () => unknown,
): Promise<void> {
  const [own, other] = await medians(rounds, ours, theirs);
  const path = put(`sheet.${extension}`, bytes);
  const whole = await timed(() => assimp(path));
  console.log(
    `${name}, ${megabytes(bytes)}: ${own.toFixed(0)} ms; three ${other.toFixed(0)} ms, ratio ${(other / own).toFixed(2)}; ` +
      `assimp's command ${whole.toFixed(0)} ms, ratio ${(whole / own).toFixed(2)}`,
  );
}

function assimp(path: string): void {
  try {
    execFileSync('assimp', ['info', path], { stdio: 'ignore' });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT')
      throw new Error('the benchmark needs the command assimp (Debian: assimp-utils)');
    throw error;
  }
}

function peakMemory(...args: string[]): number {
  const script = new URL('peakMemory.ts', import.meta.url).pathname;
  return Number(execFileSync(process.execPath, ['--import', 'tsx', script, ...args], { encoding: 'utf8' }));
}

function put(name: string, bytes: Uint8Array): string {
  const path = join(folder, name);
  writeFileSync(path, bytes);
  return path;
}

function count(value: number): string {
  return value.toLocaleString('en');
}

function megabytes(bytes: Uint8Array): string {
  return `${(bytes.length / 1e6).toFixed(1)} MB`;
}

/**
 * Milliseconds of two works in their middle round. They take turns: a machine that others share is now faster
 * and now slower, which one after the other would be read as their difference.
 */
async function medians(
  rounds: number,
  first: () => unknown,
  second: () => unknown,
): Promise<[number, number]> {
  const times: [number[], number[]] = [[], []];
  for (let i = 0; i < rounds; i += 1)
    for (const [k, work] of [first, second].entries()) times[k].push(await timed(work));
  const middle = (list: number[]) => list.sort((a, b) => a - b)[rounds >> 1];
  return [middle(times[0]), middle(times[1])];
}

/** Milliseconds of some work, after what others left to be cleared away is cleared away. */
async function timed(work: () => unknown): Promise<number> {
  collectGarbage();
  const start = performance.now();
  await work();
  return performance.now() - start;
}
