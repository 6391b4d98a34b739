import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { prepareDocument } from '@kinkajou/core/convert';
import { writeModel } from '@kinkajou/core/formats/writeModel';
import { convexDocuments } from '@kinkajou/core/test/documents';
import { boundsOff, type Seen, weSee } from '@kinkajou/core/test/witness';
import { expect, type Page, test } from '@playwright/test';
import fc from 'fast-check';

/**
 * A reader of OpenUSD that is not ours and runs in a page alone: what we write must hold the same geometry
 * for it.
 */
const library = dirname(createRequire(import.meta.url).resolve('tinyusdz/tinyusdz.js'));
const ADDRESS = 'http://outside.test/';
const EXTENSIONS = ['usda', 'usdc', 'usdz'] as const;
const ROUNDS = 10;

interface OutsideNode {
  nodeType: string;
  contentId: number;
  localMatrix: number[];
  children?: OutsideNode[];
}
interface OutsideMesh {
  points: Float32Array;
  faceVertexCounts: Uint32Array;
  faceVertexIndices: Uint32Array;
}
interface OutsideScene {
  loadFromBinary(bytes: Uint8Array, name: string): boolean;
  error(): string;
  getDefaultRootNode(): OutsideNode;
  getMesh(id: number): OutsideMesh;
  delete(): void;
}

async function openReader(page: Page): Promise<void> {
  await page.route(`${ADDRESS}**`, async (route) => {
    const name = new URL(route.request().url()).pathname.slice(1);
    if (name === '')
      return route.fulfill({ contentType: 'text/html', body: '<!doctype html><title>outside</title>' });
    const contentType = name.endsWith('.wasm') ? 'application/wasm' : 'text/javascript';
    return route.fulfill({ contentType, body: await readFile(join(library, name)) });
  });
  await page.goto(ADDRESS);
  await page.evaluate(async (address) => {
    const { default: create } = await import(`${address}tinyusdz.js`);
    Object.assign(window, { outside: await create() });
  }, ADDRESS);
}

/** Triangles and world bounds as the outside reader finds them, in the stage's own units and axes. */
function outsideSees(page: Page, bytes: Uint8Array, name: string): Promise<Seen> {
  return page.evaluate(
    ([numbers, file]) => {
      const { outside } = window as unknown as { outside: { TinyUSDZLoaderNative: new () => OutsideScene } };
      const scene = new outside.TinyUSDZLoaderNative();
      if (!scene.loadFromBinary(Uint8Array.from(numbers), file)) throw new Error(scene.error());
      const seen = {
        triangles: 0,
        min: [Infinity, Infinity, Infinity],
        max: [-Infinity, -Infinity, -Infinity],
      };
      // Row vectors, as the standard writes them: the child's matrix stands before its parent's.
      const times = (a: number[], b: number[]) =>
        a.map((_, i) => [0, 1, 2, 3].reduce((sum, k) => sum + a[(i & ~3) + k] * b[k * 4 + (i & 3)], 0));
      const visit = (node: OutsideNode, parent: number[]) => {
        const world = times(Array.from(node.localMatrix), parent);
        if (node.nodeType === 'mesh') {
          const { points, faceVertexCounts, faceVertexIndices } = scene.getMesh(node.contentId);
          seen.triangles += faceVertexIndices.length - 2 * faceVertexCounts.length;
          for (const at of faceVertexIndices) {
            for (let k = 0; k < 3; k += 1) {
              const value = [0, 1, 2].reduce(
                (sum, j) => sum + points[at * 3 + j] * world[j * 4 + k],
                world[12 + k],
              );
              seen.min[k] = Math.min(seen.min[k], value);
              seen.max[k] = Math.max(seen.max[k], value);
            }
          }
        }
        for (const child of node.children ?? []) visit(child, world);
      };
      visit(scene.getDefaultRootNode(), [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
      scene.delete();
      return seen;
    },
    [Array.from(bytes), name] as const,
  );
}

for (const extension of EXTENSIONS) {
  test(`${extension} holds the same geometry for another reader`, async ({ page }) => {
    await openReader(page);
    for (const polygons of fc.sample(convexDocuments, { numRuns: ROUNDS, seed: 7 })) {
      // It drops polygons of five corners and more that stand beside quads, so it is given triangles.
      const document = prepareDocument(polygons, extension, { triangulate: true });
      const name = `a.${extension}`;
      const bytes = writeModel(document, name).files.get(name) as Uint8Array;
      const [ours, theirs] = [weSee(document), await outsideSees(page, bytes, name)];
      expect(theirs.triangles).toBe(ours.triangles);
      if (ours.triangles > 0) expect(boundsOff(ours, theirs)).toBeLessThan(1e-4);
    }
  });
}
