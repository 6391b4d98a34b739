import { readObj } from '@kinkajou/core/formats/obj/readObj';
import { readFbx } from '@kinkajou/core/formats/fbx/readFbx';
import { NAME_SEPARATOR, type FbxNode } from '@kinkajou/core/formats/fbx/tree';
import { writeBinaryFbx } from '@kinkajou/core/formats/fbx/writeBinary';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { FBXLoader } from 'three/addons/loaders/FBXLoader.js';
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js';

/** Reading a generated grid of 100,000 triangles, against three's loaders in the same run. */
const SIDE = 224;
const ROUNDS = 5;

// three's loaders look for a page; they read geometry without one.
Object.assign(globalThis, { window: globalThis, self: globalThis });

const points: number[] = [];
const quads: number[] = [];
for (let y = 0; y <= SIDE; y += 1) for (let x = 0; x <= SIDE; x += 1) points.push(x / SIDE, Math.sin(x * 0.1) * 0.05, y / SIDE);
for (let y = 0; y < SIDE; y += 1) {
  for (let x = 0; x < SIDE; x += 1) {
    const at = y * (SIDE + 1) + x;
    quads.push(at, at + 1, at + SIDE + 2, at + SIDE + 1);
  }
}

const obj = new TextEncoder().encode(objText());
const fbx = fbxBytes();
const decoder = new TextDecoder();
await compare(
  'OBJ',
  () => readObj(obj, 'grid.obj', memorySource('bench', { 'grid.obj': obj })),
  () => new OBJLoader().parse(decoder.decode(obj)),
);
await compare(
  'FBX binary',
  async () => readFbx(fbx, 'grid.fbx'),
  () => new FBXLoader().parse(fbx.buffer.slice(fbx.byteOffset, fbx.byteOffset + fbx.byteLength) as ArrayBuffer, ''),
);

async function compare(name: string, ours: () => Promise<unknown>, theirs: () => unknown): Promise<void> {
  const [own, other] = [await median(ours), await median(theirs)];
  console.log(`${name}, ${SIDE * SIDE * 2} triangles: ${own.toFixed(1)} ms, three ${other.toFixed(1)} ms, ratio ${(other / own).toFixed(2)}`);
}

async function median(work: () => unknown): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < ROUNDS; i += 1) {
    const start = performance.now();
    await work();
    times.push(performance.now() - start);
  }
  return times.sort((a, b) => a - b)[ROUNDS >> 1];
}

function objText(): string {
  const lines = ['o grid'];
  for (let i = 0; i < points.length; i += 3)
    lines.push(
      `v ${points
        .slice(i, i + 3)
        .map((value) => value.toFixed(6))
        .join(' ')}`,
    );
  for (let i = 0; i < quads.length; i += 4)
    lines.push(
      `f ${quads
        .slice(i, i + 4)
        .map((value) => value + 1)
        .join(' ')}`,
    );
  return `${lines.join('\n')}\n`;
}

function fbxBytes(): Uint8Array {
  const node = (name: string, properties: FbxNode['properties'], children: FbxNode[] = []): FbxNode => ({ name, properties, children });
  const id = (value: bigint) => ({ type: 'L' as const, value });
  const text = (value: string) => ({ type: 'S' as const, value });
  const ends = Int32Array.from(quads, (value, i) => (i % 4 === 3 ? ~value : value));
  const geometry = node(
    'Geometry',
    [id(1n), text(`grid${NAME_SEPARATOR}Geometry`), text('Mesh')],
    [node('Vertices', [{ type: 'd', value: Float64Array.from(points) }]), node('PolygonVertexIndex', [{ type: 'i', value: ends }])],
  );
  const model = node('Model', [id(2n), text(`grid${NAME_SEPARATOR}Model`), text('Mesh')], [node('Properties70', [])]);
  const link = (from: bigint, to: bigint) => node('C', [text('OO'), id(from), id(to)]);
  return writeBinaryFbx({
    version: 7400,
    binary: true,
    nodes: [
      node('FBXHeaderExtension', [], [node('FBXVersion', [{ type: 'I', value: 7400 }])]),
      node('GlobalSettings', [], [node('Properties70', [])]),
      node('Objects', [], [geometry, model]),
      node('Connections', [], [link(1n, 2n), link(2n, 0n)]),
    ],
  });
}
