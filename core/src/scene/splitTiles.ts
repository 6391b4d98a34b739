import type { Layer, PolygonMesh, SceneDocument, SceneNode } from './document.ts';

/** Tiles are numbered 1001 + u + 10 v. */
const FIRST_TILE = 1001;
const COLUMNS = 10;

/** Where the faces of one tile go: another material, and a place in its image. */
export interface TilePlace {
  /** Key of the material that they get. */
  material: string;
  /** Of the unit square that the tile becomes: its lower left corner and its sides. */
  offset: [number, number];
  scale: [number, number];
}

/** A material whose images lie in tiles. */
export interface TiledMaterial {
  key: string;
  /** UV set by which the tiles are counted; null for the mesh's first. */
  uvSet: string | null;
  /** By tile number. Faces elsewhere go to the first. */
  places: ReadonlyMap<number, TilePlace>;
}

/**
 * Gives the faces of each tile the material of that tile and brings their UVs into its place. A face belongs
 * to the tile that the middle of its UVs lies in; those that reach over the tile's border by more than a
 * thousandth, or lie in none, are counted. The document's materials must hold those of the places already.
 * Costs one pass over the corners of tiled meshes.
 */
export function splitTiles(
  document: SceneDocument,
  tiled: readonly TiledMaterial[],
): { document: SceneDocument; across: number } {
  const byKey = new Map(tiled.map((material) => [material.key, material]));
  const indexOf = new Map(document.materials.map(({ key }, i) => [key, i]));
  const meshes = [...document.meshes];
  const made = new Map<string, { mesh: number; slots: (number | TilePlace)[] }>();
  let across = 0;
  const nodes = document.nodes.map((node): SceneNode => {
    if (node.mesh < 0) return node;
    const slots = node.materials.map((index) => byKey.get(document.materials[index]?.key ?? '') ?? null);
    if (!slots.some((slot) => slot)) return node;
    const key = `${node.mesh}\n${slots.map((slot) => slot?.key ?? '').join('\n')}`;
    let split = made.get(key);
    if (!split) {
      const cut = splitMesh(document.meshes[node.mesh], slots, node.materials.length);
      across += cut.across;
      split = { mesh: meshes.push(cut.mesh) - 1, slots: cut.slots };
      made.set(key, split);
    }
    const materials = split.slots.map((slot) =>
      typeof slot === 'number' ? (node.materials[slot] ?? -1) : (indexOf.get(slot.material) ?? -1),
    );
    return { ...node, mesh: split.mesh, materials };
  });
  return { document: { ...document, nodes, meshes }, across };
}

const SLACK = 1e-3;

interface SplitMesh {
  mesh: PolygonMesh;
  /**
   * What each slot of the new mesh is: one of the old ones, by number, or a tile. Slots without faces are
   * gone.
   */
  slots: (number | TilePlace)[];
  across: number;
}

/** New slots follow the node's own, in the order in which faces ask for them. */
function splitMesh(
  mesh: PolygonMesh,
  slots: readonly (TiledMaterial | null)[],
  firstSlot: number,
): SplitMesh {
  const faceMaterial = mesh.faceMaterial
    ? Int32Array.from(mesh.faceMaterial)
    : new Int32Array(mesh.faceCounts.length);
  const places: TilePlace[] = [];
  const slotOf = new Map<string, number>();
  const layers = new Map<number, Layer>();
  let [corner, across] = [0, 0];
  mesh.faceCounts.forEach((count, face) => {
    const start = corner;
    corner += count;
    const tiled = slots[faceMaterial[face]];
    if (!tiled) return;
    const set = Math.max(
      0,
      tiled.uvSet === null ? 0 : mesh.uvSets.findIndex(({ name }) => name === tiled.uvSet),
    );
    const source = mesh.uvSets[set];
    if (!source || source.domain === 'face') return;
    const layer = layers.get(set) ?? cornerLayer(source, mesh);
    layers.set(set, layer);
    const { values } = layer;
    let [u, v] = [0, 0];
    for (let index = start * 2; index < corner * 2; index += 2) {
      u += values[index];
      v += values[index + 1];
    }
    const [column, row] = [Math.floor(u / count), Math.floor(v / count)];
    const tile = column < 0 || column >= COLUMNS || row < 0 ? -1 : FIRST_TILE + column + COLUMNS * row;
    const ownPlace = tiled.places.get(tile);
    const place = ownPlace ?? first(tiled.places);
    if (!place) return;
    // Outside of every tile the image repeats, as it does over a border.
    let over = !ownPlace;
    for (let offset = start * 2; offset < corner * 2; offset += 2) {
      const [x, y] = [values[offset] - column, values[offset + 1] - row];
      over ||= x < -SLACK || x > 1 + SLACK || y < -SLACK || y > 1 + SLACK;
      values[offset] = place.offset[0] + x * place.scale[0];
      values[offset + 1] = place.offset[1] + y * place.scale[1];
    }
    if (over) across += 1;
    const key = `${faceMaterial[face]}\n${place.material}`;
    let slot = slotOf.get(key);
    if (slot === undefined) {
      slot = firstSlot + places.push(place) - 1;
      slotOf.set(key, slot);
    }
    faceMaterial[face] = slot;
  });
  const used = [...new Set(faceMaterial)].sort((a, b) => a - b);
  const renumbered = new Map(used.map((slot, i) => [slot, i]));
  return {
    mesh: {
      ...mesh,
      faceMaterial: faceMaterial.map((slot) => renumbered.get(slot) ?? 0),
      uvSets: mesh.uvSets.map((layer, i) => layers.get(i) ?? layer),
    },
    slots: used.map((slot) => (slot < firstSlot ? slot : places[slot - firstSlot])),
    across,
  };
}

function first(places: ReadonlyMap<number, TilePlace>): TilePlace | undefined {
  const [place] = places.values();
  return place;
}

/** The layer with a value of its own for each corner. */
function cornerLayer({ name, size, domain, values, index }: Layer, { faceCorners }: PolygonMesh): Layer {
  const out =
    values instanceof Float64Array
      ? new Float64Array(faceCorners.length * size)
      : new Float32Array(faceCorners.length * size);
  for (let corner = 0; corner < faceCorners.length; corner += 1) {
    const element = domain === 'point' ? faceCorners[corner] : corner;
    const offset = (index ? index[element] : element) * size;
    for (let k = 0; k < size; k += 1) out[corner * size + k] = values[offset + k];
  }
  return { name, size, domain: 'corner', values: out, index: null };
}
