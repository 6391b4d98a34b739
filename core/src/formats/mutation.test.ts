import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { KinkajouError } from '../errors.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { DEFAULT_LIMITS } from '../parcel/limits.ts';
import { previewGlb } from '../preview/previewGlb.ts';
import { readModel } from '../readModel.ts';
import { convexDocuments } from '../test/documents.ts';
import { writeModel } from './writeModel.ts';

const [sample] = fc.sample(convexDocuments, { numRuns: 1, seed: 7 });
const MODELS = '/usr/share/assimp/models';
const written = (name: string, form: 'binary' | 'text' = 'binary') =>
  writeModel(sample, name, { form }).files.get(name) as Uint8Array;
const cases: [string, () => Promise<Uint8Array>][] = [
  ['a.fbx', async () => written('a.fbx')],
  ['text.fbx', async () => written('text.fbx', 'text')],
  ['rig.fbx', async () => new Uint8Array(readFileSync(`${MODELS}/FBX/huesitos.fbx`))],
  ['a.obj', async () => written('a.obj')],
  ['a.usda', async () => written('a.usda')],
  ['a.usdc', async () => written('a.usdc')],
  ['a.usdz', async () => written('a.usdz')],
  ['a.glb', () => previewGlb(sample)],
  ['skin.gltf', async () => new Uint8Array(readFileSync(`${MODELS}/glTF2/simple_skin/simple_skin.gltf`))],
  [
    'draco.gltf',
    async () => new Uint8Array(readFileSync(`${MODELS}/glTF2/draco/2CylinderEngine.gltf`)).slice(0, 40_000),
  ],
];

type Mutation = (bytes: Uint8Array) => Uint8Array;

const cut = fc.double({ min: 0, max: 1, noNaN: true }).map(
  (share): Mutation =>
    (bytes) =>
      bytes.slice(0, Math.floor(bytes.length * share)),
);
const flip = fc
  .array(fc.record({ at: fc.double({ min: 0, max: 1, noNaN: true }), to: fc.nat(255) }), {
    minLength: 1,
    maxLength: 12,
  })
  .map(
    (changes): Mutation =>
      (bytes) => {
        const out = bytes.slice();
        for (const { at: offset, to } of changes)
          out[Math.min(out.length - 1, Math.floor(offset * out.length))] = to;
        return out;
      },
  );
/** A wild number where a count or an offset may stand. */
const wild = fc
  .record({
    at: fc.double({ min: 0, max: 1, noNaN: true }),
    value: fc.constantFrom(0xffffffff, 0x7fffffff, 0x80000000, 0x10000000, 0),
    head: fc.boolean(),
  })
  .map(
    ({ at: offset, value, head }): Mutation =>
      (bytes) => {
        const out = bytes.slice();
        const room = Math.max(0, (head ? Math.min(out.length, 400) : out.length) - 4);
        if (out.length >= 4) new DataView(out.buffer).setUint32(Math.floor(offset * room), value, true);
        return out;
      },
  );
const digits = fc.double({ min: 0, max: 1, noNaN: true }).map(
  (offset): Mutation =>
    (bytes) => {
      const place = Math.floor(offset * bytes.length);
      return new Uint8Array(
        Buffer.concat([bytes.subarray(0, place), Buffer.from('99999999999'), bytes.subarray(place)]),
      );
    },
);

describe('a damaged file gives what can be read, or a typed error, and nothing else', () => {
  it.each(cases)('%s', async (name, make) => {
    const bytes = await make();
    await fc.assert(
      fc.asyncProperty(fc.oneof(cut, flip, wild, digits), async (mutate) => {
        try {
          const document = await readModel(name, memorySource('damaged', { [name]: mutate(bytes) }), {
            ...DEFAULT_LIMITS,
            polygons: 1_000_000,
          });
          // What is handed on is sound: corners name points, layers have their entries.
          for (const mesh of document.meshes) {
            const points = mesh.points.length / 3;
            expect(mesh.faceCorners.every((corner) => corner < points)).toBe(true);
            expect(mesh.faceCounts.reduce((sum, count) => sum + count, 0)).toBe(mesh.faceCorners.length);
          }
        } catch (error) {
          if (!(error instanceof KinkajouError)) throw error;
          expect(error.message.length).toBeGreaterThan(3);
        }
      }),
      { numRuns: 150 },
    );
  });
});
