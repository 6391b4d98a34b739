import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import fc from 'fast-check';
import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { prepareDocument } from '../convert.ts';
import { KinkajouError } from '../errors.ts';
import { folderSource } from '../parcel/folderSource.ts';
import { previewGlb } from '../preview/previewGlb.ts';
import { readModel } from '../readModel.ts';
import { type SceneDocument, Y_UP } from '../scene/document.ts';
import { countDocument } from '../scene/measure.ts';
import { reorient } from '../scene/reorient.ts';
import { convexDocuments } from '../test/documents.ts';
import { put } from '../test/tools.ts';
import {
  assimpInfo,
  assimpSees,
  boundsOff,
  type Seen,
  threeSees,
  threeSeesGltf,
  weSee,
} from '../test/witness.ts';
import { writeModel } from './writeModel.ts';

const MODELS = '/usr/share/assimp/models';
const source = existsSync(MODELS) ? await folderSource(MODELS) : null;
const files = (source?.files ?? [])
  .map((file) => file.path)
  .filter((path) => /^(FBX|OBJ|glTF2?)\/.*\.(fbx|obj|gltf|glb)$/i.test(path));
const page = new URL('../../../docs/readers.md', import.meta.url);
/** Rows of the table in docs/readers.md: the file, and what is expected of it. */
const rows = new Map(
  (await readFile(page, 'utf8'))
    .split('\n')
    .map((line) => line.split('|').map((cell) => cell.trim()))
    .filter((cells) => cells.length >= 5 && /\.(fbx|obj|gltf|glb)`$/i.test(cells[1]))
    .map((cells) => [cells[1].replaceAll('`', ''), cells[2].replaceAll('`', '')]),
);

function expectSame(ours: Seen[], theirs: Seen, tolerance = 1e-4): void {
  expect(ours[0].triangles).toBe(theirs.triangles);
  expect(Math.min(...ours.map((seen) => boundsOff(seen, theirs)))).toBeLessThan(tolerance);
}

describe('every model of the outside collection', () => {
  it('is there', () => expect(files.length).toBeGreaterThan(80));

  it('the page of differences names no file that is not there', () => {
    expect([...rows.keys()].filter((file) => !files.includes(file))).toEqual([]);
  });

  it.each(files)('%s', async (file) => {
    const explained = rows.get(file);
    let document: SceneDocument;
    try {
      document = await readModel(file, source as NonNullable<typeof source>);
    } catch (error) {
      expect(error).toBeInstanceOf(KinkajouError);
      expect((error as KinkajouError).place.file).toBeTruthy();
      expect(explained).toBe((error as KinkajouError).code);
      return;
    }
    const path = `${MODELS}/${file}`;
    const info = assimpInfo(path);
    const seen = info && assimpSees(path);
    if (explained) {
      expect(explained).toBe('read');
      return;
    }
    const counts = countDocument(document);
    expect(counts.polygons).toBe(info?.faces);
    // assimp adds a default material where a face has none, and in most formats even where none has.
    expect([info?.materials, (info?.materials ?? 0) - 1]).toContain(counts.materials);
    expect(counts.cameras).toBe(info?.cameras);
    expect(counts.clips).toBe(/fbx/i.test(file) && info?.animations === 0 ? counts.clips : info?.animations);
    expectSame([weSee(document), weSee(document, true)], seen as Seen);
  });
});

/**
 * three's loaders misplace mirrored and unevenly scaled nodes under turned ones; assimp and our own reader do
 * not.
 */
function withEvenScales(document: SceneDocument): SceneDocument {
  const nodes = document.nodes.map((node) => {
    const size = Math.abs(node.transform.scale[0]);
    return {
      ...node,
      transform: { ...node.transform, scale: [size, size, size] as [number, number, number] },
    };
  });
  return { ...document, nodes };
}

describe('what is written opens elsewhere with the same triangles in the same place', () => {
  const written = (document: SceneDocument, name: string, form: 'binary' | 'text' = 'binary') =>
    writeModel(prepareDocument(document, name.split('.')[1], {}), name, { form }).files;

  it.each(['binary', 'text'] as const)('FBX, %s, by assimp and by three', async (form) => {
    await fc.assert(
      fc.asyncProperty(convexDocuments, async (document) => {
        const bytes = written(document, 'a.fbx', form).get('a.fbx') as Uint8Array;
        expectSame([weSee(document), weSee(document, true)], assimpSees(put('a.fbx', bytes)) as Seen);
        // It also turns Z up anew where a lone root group is turned already.
        const even = withEvenScales(reorient(document, Y_UP, document.metresPerUnit));
        expectSame(
          [weSee(even), weSee(even, true)],
          await threeSees('fbx', written(even, 'a.fbx', form).get('a.fbx') as Uint8Array),
        );
      }),
      { numRuns: 12 },
    );
  });

  it('OBJ, by assimp and by three', async () => {
    await fc.assert(
      fc.asyncProperty(convexDocuments, async (document) => {
        const files = written(document, 'a.obj');
        put('a.mtl', files.get('a.mtl') as Uint8Array);
        const ready = prepareDocument(document, 'obj', {});
        const bytes = files.get('a.obj') as Uint8Array;
        expectSame([weSee(ready)], assimpSees(put('a.obj', bytes)) as Seen);
        expectSame([weSee(ready)], await threeSees('obj', bytes));
      }),
      { numRuns: 12 },
    );
  });

  it.each(['usda', 'usdc', 'usdz'])('%s, by three', async (extension) => {
    await fc.assert(
      fc.asyncProperty(convexDocuments.map(withEvenScales), async (document) => {
        const bytes = written(document, `a.${extension}`).get(`a.${extension}`) as Uint8Array;
        expectSame([weSee(document, true, document.metresPerUnit)], await threeSees('usd', bytes));
      }),
      { numRuns: 12 },
    );
  });

  it('glTF, by its validator, by assimp and by three', async () => {
    await fc.assert(
      fc.asyncProperty(convexDocuments, async (document) => {
        const bytes = await previewGlb(document);
        const { issues } = await validateBytes(bytes);
        expect(issues.messages.filter((message) => message.severity === 0)).toEqual([]);
        const ready = prepareDocument(document, 'glb', { up: 'Y', metresPerUnit: 1 });
        expectSame([weSee(ready)], assimpSees(put('a.glb', bytes)) as Seen);
        expectSame([weSee(ready)], await threeSeesGltf(bytes));
      }),
      { numRuns: 12 },
    );
  });

  it.each([
    'FBX/huesitos.fbx',
    'FBX/animation_with_skeleton.fbx',
    'glTF2/simple_skin/simple_skin.gltf',
    'glTF2/glTF-Sample-Models/AnimatedMorphCube-glTF/AnimatedMorphCube.gltf',
  ])('%s keeps its skin, bones and motion through FBX and glTF', async (file) => {
    const document = await readModel(file, source as NonNullable<typeof source>);
    const before = assimpInfo(`${MODELS}/${file}`);
    const fbx = assimpInfo(put('rig.fbx', written(document, 'rig.fbx').get('rig.fbx') as Uint8Array));
    const glb = await previewGlb(document);
    const gltf = assimpInfo(put('rig.glb', glb));
    for (const after of [fbx, gltf])
      expect([after?.bones, after?.animations]).toEqual([before?.bones, before?.animations]);
    expect((await validateBytes(glb)).issues.messages.filter((message) => message.severity === 0)).toEqual(
      [],
    );
  });
});
