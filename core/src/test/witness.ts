import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { onPretendedPage, type Seen, seenOf, threeSees } from '../handoff/readBack/secondReader.ts';
import type { SceneDocument } from '../scene/document.ts';
import { scaling, toYUpMetres } from '../scene/matrix.ts';
import { type Bounds, measureBoundsIn } from '../scene/measure.ts';
import { scratch } from './tools.ts';

export { type Seen, threeSees };

/** Counts that assimp's command prints of a raw import. */
export interface AssimpInfo {
  meshes: number;
  faces: number;
  materials: number;
  bones: number;
  animations: number;
  cameras: number;
  lights: number;
}

/** Runs `assimp info`; null when assimp cannot read the file. */
export function assimpInfo(path: string): AssimpInfo | null {
  const text = run('info', path, '--raw');
  if (text === null) return null;
  const number = (word: string) =>
    Number(new RegExp(`^${word}:\\s+(\\d+)`, 'm').exec(text)?.[1] ?? Number.NaN);
  return {
    meshes: number('Meshes'),
    faces: number('Faces'),
    materials: number('Materials'),
    bones: number('Bones'),
    animations: number('Animations'),
    cameras: number('Cameras'),
    lights: number('Lights'),
  };
}

/**
 * Triangles and bounds in world space, as assimp writes them into a binary STL; null when it cannot read the
 * file.
 */
export function assimpSees(path: string): Seen | null {
  const out = join(scratch, 'seen.stl');
  if (run('export', path, out, '-fstlb', '-tri') === null) return null;
  const bytes = readFileSync(out);
  const triangles = bytes.readUInt32LE(80);
  // Lines and points make it write files that are no STL.
  if (bytes.length !== 84 + triangles * 50) return null;
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (let t = 0; t < triangles; t += 1) {
    for (let corner = 0; corner < 3; corner += 1) {
      for (let k = 0; k < 3; k += 1) {
        const value = bytes.readFloatLE(84 + t * 50 + 12 + corner * 12 + k * 4);
        min[k] = Math.min(min[k], value);
        max[k] = Math.max(max[k], value);
      }
    }
  }
  return { triangles, min, max };
}

function run(...args: string[]): string | null {
  try {
    return execFileSync('assimp', args, {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'pipe'],
      timeout: 60_000,
      maxBuffer: 1 << 26,
    });
  } catch {
    return null;
  }
}

/** glTF without images, as three's loader places it. */
export async function threeSeesGltf(bytes: Uint8Array): Promise<Seen> {
  const { scene } = await onPretendedPage(() =>
    new GLTFLoader().parseAsync(new Uint8Array(bytes).buffer, ''),
  );
  return seenOf(scene);
}

/**
 * Our own reading in the same terms: the document's units, its own axes or turned Y up, every placed mesh
 * counted.
 */
export function weSee(document: SceneDocument, turned = false, metres = 1): Seen {
  let triangles = 0;
  for (const node of document.nodes) {
    if (node.mesh < 0) continue;
    const mesh = document.meshes[node.mesh];
    triangles += mesh.faceCorners.length - 2 * mesh.faceCounts.length;
  }
  const bounds: Bounds = measureBoundsIn(
    document,
    turned ? toYUpMetres(document.axes, metres) : scaling([1, 1, 1]),
  ) ?? { min: [0, 0, 0], max: [0, 0, 0] };
  return { triangles, min: bounds.min, max: bounds.max };
}

/** Largest distance of bounds, as a share of their size. */
export function boundsOff(a: Seen, b: Seen): number {
  const size = Math.max(1e-12, ...b.max.map((value, k) => value - b.min[k]));
  return (
    Math.max(
      ...a.min.map((value, k) => Math.abs(value - b.min[k])),
      ...a.max.map((value, k) => Math.abs(value - b.max[k])),
    ) / size
  );
}
