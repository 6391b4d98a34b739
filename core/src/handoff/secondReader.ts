import { Box3, LoadingManager, type Mesh, type Object3D } from 'three';
import { FBXLoader } from 'three/addons/loaders/FBXLoader.js';
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js';
import { USDLoader } from 'three/addons/loaders/USDLoader.js';

/** What a reader that is not ours sees of a model. */
export interface Seen {
  triangles: number;
  min: number[];
  max: number[];
}

/** three's loaders look for a page; they read geometry without one. */
export function pretendPage(): void {
  const element = () => ({ addEventListener() {}, removeEventListener() {}, setAttribute() {}, style: {} });
  const page = globalThis as { window?: unknown; self?: unknown; document?: unknown };
  page.window ??= globalThis;
  page.self ??= globalThis;
  page.document ??= { createElementNS: element, createElement: element };
}

/** Reads a model with three's loaders, images left alone: triangles as placed, bounds in world space as three sets it up. */
export function threeSees(kind: 'fbx' | 'obj' | 'usd', bytes: Uint8Array): Seen {
  pretendPage();
  const buffer = new Uint8Array(bytes).buffer;
  // Images are never waited for.
  const manager = new LoadingManager();
  const root = quietly(
    (): Object3D =>
      kind === 'fbx'
        ? new FBXLoader(manager).parse(buffer, '')
        : kind === 'obj'
          ? new OBJLoader(manager).parse(new TextDecoder().decode(bytes))
          : new USDLoader(manager).parse(buffer),
  );
  return seenOf(root);
}

/** The loaders tell of every texture that they have no use for; the numbers are all that matters here. */
function quietly<T>(work: () => T): T {
  const { warn } = console;
  console.warn = () => {};
  try {
    return work();
  } finally {
    console.warn = warn;
  }
}

export function seenOf(root: Object3D): Seen {
  root.updateMatrixWorld(true);
  let triangles = 0;
  root.traverse((object) => {
    const mesh = object as Mesh;
    if (!mesh.isMesh) return;
    triangles += (mesh.geometry.index?.count ?? mesh.geometry.getAttribute('position').count) / 3;
  });
  const box = new Box3().setFromObject(root, true);
  return { triangles, min: box.min.toArray(), max: box.max.toArray() };
}
