import type { PolygonMesh, SceneDocument } from '../scene/document.ts';

/** Cells along each side of a layout, as many as an activity map of an image has. */
export const LAYOUT = 64;
/** Samples along each side of a cell. */
const FINE = 2;
const SIDE = LAYOUT * FINE;
/** Triangles that reach over more images than this cover everything. */
const MOST_REPEATS = 4;
/** Coordinates may reach this far beyond the image by rounding. */
const SLACK = 1e-3;

/** Where the faces of a material lie in its image. Plain JSON. */
export interface UvLayout {
  /** 64 by 64 cells, rows from the top, as bits: four cells a hexadecimal digit, the first the highest. */
  cells: string;
  /** Share of the faces, in 0..1, that reach beyond one image: the image repeats. */
  repeats: number;
}

/**
 * Per material key the layout of its faces in the first UV set; materials without UVs are not in it. One pass
 * over corners.
 */
export function measureUvLayouts(document: SceneDocument): Record<string, UvLayout> {
  const layouts = new Map<string, { grid: Uint8Array; faces: number; repeating: number }>();
  const drawn = new Set<string>();
  for (const node of document.nodes) {
    if (node.mesh < 0) continue;
    // Instances lie in the same place of the image.
    const instance = `${node.mesh} ${node.materials.join(' ')}`;
    if (drawn.has(instance)) continue;
    drawn.add(instance);
    eachFace(document.meshes[node.mesh], (slot, uvs) => {
      const key = document.materials[node.materials[slot] ?? -1]?.key ?? '';
      let layout = layouts.get(key);
      if (!layout) {
        layout = { grid: new Uint8Array(SIDE * SIDE), faces: 0, repeating: 0 };
        layouts.set(key, layout);
      }
      layout.faces += 1;
      if (drawFace(layout.grid, uvs)) layout.repeating += 1;
    });
  }
  return Object.fromEntries(
    [...layouts].map(([key, { grid, faces, repeating }]) => [
      key,
      { cells: pack(grid), repeats: repeating / faces },
    ]),
  );
}

/** One value a cell: 1 where a face lies. */
export function layoutCells({ cells }: UvLayout): Uint8Array {
  const grid = new Uint8Array(LAYOUT * LAYOUT);
  for (let i = 0; i < cells.length; i += 1) {
    const digit = Number.parseInt(cells[i], 16);
    for (let bit = 0; bit < 4; bit += 1) grid[i * 4 + bit] = (digit >> (3 - bit)) & 1;
  }
  return grid;
}

/**
 * Hands over the corners' coordinates of each face, u and v in turn; the list is used again for the next
 * face.
 */
function eachFace(mesh: PolygonMesh, use: (slot: number, uvs: readonly number[]) => void): void {
  const layer = mesh.uvSets[0];
  if (!layer || layer.domain === 'face') return;
  const { values, index, domain } = layer;
  const uvs: number[] = [];
  let corner = 0;
  mesh.faceCounts.forEach((count, face) => {
    uvs.length = 0;
    for (let i = 0; i < count; i += 1, corner += 1) {
      const element = domain === 'point' ? mesh.faceCorners[corner] : corner;
      const offset = (index ? index[element] : element) * 2;
      uvs.push(values[offset], values[offset + 1]);
    }
    use(mesh.faceMaterial ? mesh.faceMaterial[face] : 0, uvs);
  });
}

/** Marks the cells under a face, wrapped into one image; true where the face reaches beyond it. */
function drawFace(grid: Uint8Array, uvs: readonly number[]): boolean {
  let [left, right, low, high] = [
    Number.POSITIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
    Number.POSITIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
  ];
  for (let i = 0; i < uvs.length; i += 2) {
    left = Math.min(left, uvs[i]);
    right = Math.max(right, uvs[i]);
    low = Math.min(low, uvs[i + 1]);
    high = Math.max(high, uvs[i + 1]);
  }
  if (!Number.isFinite(left + right + low + high)) return false;
  const repeats =
    Math.floor(left + SLACK) < Math.ceil(right - SLACK) - 1 ||
    Math.floor(low + SLACK) < Math.ceil(high - SLACK) - 1;
  if (right - left > MOST_REPEATS || high - low > MOST_REPEATS) {
    grid.fill(1);
    return true;
  }
  for (let i = 4; i < uvs.length; i += 2) drawTriangle(grid, uvs, i);
  return repeats;
}

/** The triangle of the first corner, the one before `second` and `second`. */
function drawTriangle(grid: Uint8Array, uvs: readonly number[], second: number): void {
  const [ax, ay] = [uvs[0] * SIDE, uvs[1] * SIDE];
  const [bx, by] = [uvs[second - 2] * SIDE, uvs[second - 1] * SIDE];
  const [cx, cy] = [uvs[second] * SIDE, uvs[second + 1] * SIDE];
  // Triangles smaller than a sample lie somewhere, too.
  mark(grid, Math.floor((ax + bx + cx) / 3), Math.floor((ay + by + cy) / 3));
  const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
  if (Math.abs(area) < 1e-9) return;
  const [xs, ys] = [
    [ax, bx, cx],
    [ay, by, cy],
  ];
  const toY = Math.floor(Math.max(ay, by, cy) - 0.5);
  for (let row = Math.ceil(Math.min(ay, by, cy) - 0.5); row <= toY; row += 1) {
    const y = row + 0.5;
    let left = Infinity;
    let right = -Infinity;
    for (let i = 0; i < 3; i += 1) {
      const j = (i + 1) % 3;
      if (ys[i] > y === ys[j] > y) continue;
      const x = xs[i] + ((y - ys[i]) / (ys[j] - ys[i])) * (xs[j] - xs[i]);
      if (x < left) left = x;
      if (x > right) right = x;
    }
    const last = Math.floor(right - 0.5);
    for (let column = Math.ceil(left - 0.5); column <= last; column += 1) mark(grid, column, row);
  }
}

/** Rows of the grid run downwards, v upwards. */
function mark(grid: Uint8Array, column: number, row: number): void {
  const x = ((column % SIDE) + SIDE) % SIDE;
  const y = ((row % SIDE) + SIDE) % SIDE;
  grid[(SIDE - 1 - y) * SIDE + x] = 1;
}

function pack(grid: Uint8Array): string {
  let cells = '';
  for (let row = 0; row < LAYOUT; row += 1) {
    for (let column = 0; column < LAYOUT; column += 4) {
      let digit = 0;
      for (let bit = 0; bit < 4; bit += 1) if (isCovered(grid, row, column + bit)) digit |= 8 >> bit;
      cells += digit.toString(16);
    }
  }
  return cells;
}

function isCovered(grid: Uint8Array, row: number, column: number): boolean {
  for (let i = 0; i < FINE; i += 1)
    for (let j = 0; j < FINE; j += 1) if (grid[(row * FINE + i) * SIDE + column * FINE + j]) return true;
  return false;
}
