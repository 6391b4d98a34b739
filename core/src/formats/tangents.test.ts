import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { compareGeometry } from '../compare/compareGeometry.ts';
import { worldParts } from '../compare/worldParts.ts';
import { DESTINATIONS } from '../destinations/destinations.ts';
import { handOff } from '../handoff/handoff.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { type PolygonMesh, Y_UP } from '../scene/document.ts';
import { scaling } from '../scene/matrix.ts';
import { bakeMesh, reorient } from '../scene/reorient.ts';
import { quadGlb } from '../test/quad.ts';
import { put, scratch } from '../test/tools.ts';
import { gltfIo } from './gltf/io.ts';
import { writeModel } from './writeModel.ts';

/** Not as anybody would make them of the UVs; those of one corner are mirrored. */
const TANGENTS = [0.6, 0.8, 0, 1, 0.8, 0.6, 0, 1, 1, 0, 0, 1, 0.6, -0.8, 0, -1];
let plate: Uint8Array;

async function withTangents(values: readonly number[]): Promise<Uint8Array> {
  const io = await gltfIo();
  const gltf = await io.readBinary(await quadGlb('Plate', async () => {}));
  const [primitive] = gltf.getRoot().listMeshes()[0].listPrimitives();
  const [buffer] = gltf.getRoot().listBuffers();
  primitive.setAttribute(
    'TANGENT',
    gltf.createAccessor().setType('VEC4').setArray(Float32Array.from(values)).setBuffer(buffer),
  );
  return io.writeBinary(gltf);
}

beforeAll(async () => {
  plate = await withTangents(TANGENTS);
});

const read = (path: string, bytes: Uint8Array) => readModel(path, memorySource('plates', { [path]: bytes }));

/** Place of each corner, with its tangent and sign, in order. */
function framesOf({ points, faceCorners, tangents }: PolygonMesh): string[] {
  const frames = Array.from(faceCorners, (point, corner) => {
    const entry = (tangents?.domain === 'point' ? point : corner) * 4;
    const index = tangents?.index ? tangents.index[entry / 4] * 4 : entry;
    const numbers = [
      ...points.slice(point * 3, point * 3 + 3),
      ...(tangents?.values.slice(index, index + 4) ?? []),
    ];
    return numbers.map((number) => (Math.round(number * 1e5) / 1e5 + 0).toString()).join(' ');
  });
  return [...new Set(frames)].sort();
}

async function written(format: 'fbx' | 'usda' | 'usdc'): Promise<[string, Uint8Array]> {
  const { files } = writeModel(await read('plate.glb', plate), `plate.${format}`);
  return [...files].find(([name]) => name.endsWith(format)) as [string, Uint8Array];
}

const FRAMES = ['0 0 0 0.6 0.8 0 1', '0 1 0 0.6 -0.8 0 -1', '1 0 0 0.8 0.6 0 1', '1 1 0 1 0 0 1'];

describe('tangents of a model', () => {
  it.each(['fbx', 'usda', 'usdc'] as const)('come through %s with their signs', async (format) => {
    const again = reorient(await read(...(await written(format))), Y_UP, 1);
    expect(framesOf(again.meshes[0])).toEqual(FRAMES);
  });

  it('are in FBX what another reader takes for tangents and binormals', async () => {
    const [, bytes] = await written('fbx');
    const out = join(scratch, 'plate.json');
    execFileSync('assimp', ['export', put('plate.fbx', bytes), out, '-fassjson'], { stdio: 'ignore' });
    const [mesh] = JSON.parse(readFileSync(out, 'utf8')).meshes;
    const rows = (list: number[]) =>
      Array.from({ length: list.length / 3 }, (_, i) =>
        list
          .slice(i * 3, i * 3 + 3)
          .map((x) => x.toFixed(2))
          .join(' '),
      );
    const seen = rows(mesh.vertices).map((place, i) => [
      place,
      rows(mesh.tangents)[i],
      rows(mesh.bitangents)[i],
    ]);
    // The normal (0 0 1) across (0.6 0.8 0) is (-0.8 0.6 0); across (0.6 -0.8 0), and turned by the sign, (-0.8 -0.6 0).
    expect(seen).toContainEqual(['0.00 0.00 0.00', '0.60 0.80 0.00', '-0.80 0.60 0.00']);
    expect(seen).toContainEqual(['0.00 1.00 0.00', '0.60 -0.80 0.00', '-0.80 -0.60 0.00']);
  });

  it('reach every destination but those of OBJ, which is told', async () => {
    const source = memorySource('plates', { 'plate.glb': plate });
    for (const destination of DESTINATIONS) {
      const asset = await openAsset(source, 'plate.glb');
      const { receipt, files } = await handOff({
        ...asset,
        state: initialState(asset.source),
        edits: [],
        findings: [],
        destination,
      });
      expect([destination.id, receipt.readBack.checks.filter(({ ok }) => !ok)]).toEqual([destination.id, []]);
      const told = receipt.losses.filter((line) => line.includes('OBJ has no tangents'));
      expect([destination.id, told.length]).toEqual([destination.id, destination.format === 'obj' ? 1 : 0]);
      const glb = files.get('plate.glb');
      if (!glb) continue;
      const again = await (await gltfIo()).readBinary(glb);
      const frames = again.getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('TANGENT');
      expect(frames?.getCount()).toBe(4);
    }
  });

  it('that are another, mirrored, or gone are found by Compare', async () => {
    const mirrored = [...TANGENTS];
    mirrored[3] = -1;
    const turned = [...TANGENTS];
    turned.splice(8, 3, 0, 1, 0);
    const scene = async (bytes: Uint8Array) => worldParts(await read('plate.glb', bytes));
    const codes = async (other: Uint8Array) =>
      compareGeometry(await scene(plate), await scene(other)).map(({ code }) => code);
    expect(await codes(await withTangents(TANGENTS))).toEqual([]);
    expect(await codes(await withTangents(mirrored))).toEqual(['shape.tangents']);
    expect(await codes(await withTangents(turned))).toEqual(['shape.tangents']);
    expect(await codes(await quadGlb('Plate', async () => {}))).toEqual(['shape.tangents']);
  });

  it('that point nowhere or along the normal are left out, and told', async () => {
    for (const broken of [
      [0, 0, 0],
      [0, 0, 1],
      [Number.NaN, 0, 0],
    ]) {
      const document = await read('plate.glb', await withTangents([...broken, 1, ...TANGENTS.slice(4)]));
      expect(document.meshes[0].tangents).toBeNull();
      const remarks = document.remarks.filter(({ code }) => code === 'read.layer');
      // One point, a corner of both triangles.
      expect(remarks.map(({ subject, count }) => [subject, count])).toEqual([['Plate', 2]]);
    }
  });

  it('that lean off the normal by more than a thousandth of a radian stand', async () => {
    const leaning = async (x: number) => {
      const length = Math.hypot(x, 1);
      return (
        await read('plate.glb', await withTangents([x / length, 0, 1 / length, 1, ...TANGENTS.slice(4)]))
      ).meshes[0].tangents;
    };
    expect(await leaning(0.0005)).toBeNull();
    expect(await leaning(0.002)).not.toBeNull();
  });

  it('follow a mirror with the other sign, and a stretch along it', async () => {
    const [mesh] = (await read('plate.glb', plate)).meshes;
    // The image's up, which is the normal across the tangent times the sign, goes where the mirror takes it:
    // at the corner 0 0 0 from (-0.8 0.6 0) to (0.8 0.6 0), and (0 0 1) across (-0.6 0.8 0) is (-0.8 -0.6 0).
    expect(framesOf(bakeMesh(mesh, scaling([-1, 1, 1])))[2]).toBe('0 0 0 -0.6 0.8 0 -1');
    // (0.6 0.8 0) with x four thirds as long is (0.8 0.8 0).
    expect(framesOf(bakeMesh(mesh, scaling([4 / 3, 1, 1])))[0]).toBe('0 0 0 0.70711 0.70711 0 1');
  });

  it('without binormals have the sign of how the UVs lie', async () => {
    const document = await read('plate.glb', plate);
    const [uv] = document.meshes[0].uvSets;
    const mirrored = { ...uv, values: uv.values.map((value, i) => (i % 2 === 0 ? 1 - value : value)) };
    for (const [uvs, sign] of [
      [uv, 1],
      [mirrored, -1],
    ] as const) {
      const meshes = [{ ...document.meshes[0], uvSets: [uvs] }];
      const { files } = writeModel({ ...document, meshes }, 'plate.usda');
      const text = new TextDecoder().decode(files.get('plate.usda')).replace(/^.*binormals.*$/m, '');
      const again = await read('plate.usda', new TextEncoder().encode(text));
      expect(again.meshes[0].tangents?.values.filter((_, i) => i % 4 === 3)).toEqual(
        new Float64Array(6).fill(sign),
      );
    }
  });
});
