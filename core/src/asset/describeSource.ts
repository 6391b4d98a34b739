import { sniffImage } from '../images/format.ts';
import { buildFileIndex, type FileIndex } from '../links/fileIndex.ts';
import { resolveExactly } from '../links/rank.ts';
import { isTilePattern } from '../links/tiles.ts';
import { extensionOf, fileName, stemOf } from '../parcel/fileSource.ts';
import { materialsUnderColours } from '../scene/colours.ts';
import type { SceneDocument } from '../scene/document.ts';
import { movedNodes } from '../scene/keyedDocument.ts';
import type { ImageEntry } from '../scene/material.ts';
import { countDocument, mergeBounds } from '../scene/measure.ts';
import { isShown } from '../scene/unsaidParts.ts';
import { type PlacedPart, type PlacedPieces, placeParts, placePieces } from '../shape/placeParts.ts';
import { measureShape } from '../shape/shapeFacts.ts';
import type { AssetImage, AssetNode, AssetSource } from './asset.ts';
import { resolution } from './resolution.ts';
import { measureUvLayouts } from './uvLayout.ts';
import { uvPlaces } from './uvPlaces.ts';
import { measurePointUvs, measureUvTiles } from './uvTiles.ts';

/** An image carried inside the model, with the path it gets among the parcel's images. */
export interface EmbeddedImage {
  key: string;
  path: string;
  bytes: Uint8Array;
}

/**
 * Embedded images under unique paths `embedded/NAME`; the name's type follows the content where the name has
 * none.
 */
export function embeddedImages(document: SceneDocument): EmbeddedImage[] {
  const taken = new Set<string>();
  return document.images.flatMap((image) => {
    if (!image.embedded) return [];
    const bare = fileName(image.written.replaceAll('\\', '/')) || 'image';
    const type = extensionOf(bare) || sniffImage(image.embedded) || '';
    const ending = type && `.${type}`;
    let path = `embedded/${extensionOf(bare) ? bare : bare + ending}`;
    for (let i = 2; taken.has(path); i += 1) path = `embedded/${stemOf(bare)}-${i}${ending}`;
    taken.add(path);
    return [{ key: image.key, path, bytes: image.embedded }];
  });
}

/**
 * Everything about a model but its geometry. `imagePaths` are the images of the parcel; a written path that
 * names one of them exactly is found, anything else is missing until someone links it. `home` is the folder
 * of the images that are taken for the model's own.
 */
export function describeSource(
  document: SceneDocument,
  modelPath: string,
  imagePaths: Iterable<string>,
  home = '',
): AssetSource {
  const { up } = document.axes;
  const images = describeImages(document, modelPath, imagePaths);
  const parts = placeParts(document);
  const shapes = document.meshes.map(measureShape);
  const pieces = placePieces(document, shapes);
  const moving = movedNodes(document);
  const uvSets = [...new Set(document.meshes.flatMap((mesh) => mesh.uvSets.map((layer) => layer.name)))];
  const places = uvPlaces(document, uvSets);
  const coloured = [...materialsUnderColours(document)].flatMap((i) => document.materials[i]?.key ?? []);
  const tiled = images.some((image) => image.tiles || isTilePattern(image.written));
  return {
    name: stemOf(modelPath),
    model: modelPath,
    format: document.format,
    variant: document.variant,
    generator: document.generator,
    metresPerUnit: document.metresPerUnit,
    unitStated: document.unitStated,
    upAxis: (['X', 'Y', 'Z'] as const)[up.axis],
    counts: countDocument(document),
    bounds: mergeBounds(parts.map(({ bounds }) => bounds)),
    materials: document.materials,
    facesPerMaterial: countFaces(document),
    uvSets,
    ...(places ? { uvPlaces: places } : {}),
    ...(coloured.length > 0 ? { coloured } : {}),
    nodes: document.nodes.map((_, i) =>
      describeNode(i, document, { ...parts[i], pieces: pieces[i], moves: moving.has(i) }),
    ),
    shapes,
    images,
    remarks: document.remarks,
    home,
    ...(document.materials.length > 0 ? { uvLayouts: measureUvLayouts(document) } : {}),
    ...(images.length > 0 ? { pointUvs: measurePointUvs(document) } : {}),
    ...(tiled ? { uvTiles: measureUvTiles(document) } : {}),
  };
}

/** The images that a model names, with where each was found. */
export function describeImages(
  document: SceneDocument,
  modelPath: string,
  imagePaths: Iterable<string>,
): AssetImage[] {
  const index = buildFileIndex(imagePaths);
  const embedded = new Map(embeddedImages(document).map((image) => [image.key, image.path]));
  return document.images.map((image) =>
    describeImage(image, modelPath, index, embedded.get(image.key) ?? null),
  );
}

function describeNode(
  index: number,
  document: SceneDocument,
  place: PlacedPart & { pieces: PlacedPieces; moves: boolean },
): AssetNode {
  const { name, kind, parent, mesh, materials } = document.nodes[index];
  const { bounds, pivot, frame, box, flips, mirrored, scale, pieces } = place;
  const placed = {
    ...(document.format === 'obj' ? {} : { pivot }),
    ...(frame ? { frame } : {}),
    ...(box ? { box } : {}),
    ...(document.nodes[index].skin >= 0 ? { skinned: true } : {}),
    ...(place.moves ? { moves: true } : {}),
    ...(flips ? { flips } : {}),
    ...(mirrored ? { mirrored } : {}),
    ...(isShown(document.nodes, index) ? {} : { hidden: true }),
  };
  if (mesh < 0) return { name, kind, parent, polygons: 0, ...placed };
  const slots = materials.map((index) => document.materials[index]?.key ?? '');
  const keys = [...new Set(slots)].filter((key) => key !== '');
  const polygons = document.meshes[mesh].faceCounts.length;
  const fallen = Object.keys(pieces).length > 0 ? { pieces } : {};
  const scaled = scale.some((value) => value !== 1) ? { scale } : {};
  return {
    name,
    kind,
    parent,
    polygons,
    materials: keys,
    shape: mesh,
    slots,
    ...placed,
    ...scaled,
    ...(bounds ? { bounds } : {}),
    ...fallen,
  };
}

function describeImage(
  image: ImageEntry,
  modelPath: string,
  index: FileIndex,
  embedded: string | null,
): AssetImage {
  const base = { key: image.key, written: image.written, relative: image.relative };
  if (embedded) return { ...base, status: 'embedded', resolved: embedded, how: 'carried inside the model' };
  const path = resolveExactly(image.written, image.relative, modelPath, index);
  return {
    ...base,
    ...(path
      ? resolution(path, 'same relative path', index)
      : { status: 'missing', resolved: null, how: '' }),
  };
}

/** Faces of each material over all nodes, by the material's key; those without one are left out. */
export function countFaces(document: SceneDocument): Record<string, number> {
  const counts: Record<string, number> = {};
  for (const node of document.nodes) {
    if (node.mesh < 0) continue;
    const mesh = document.meshes[node.mesh];
    const perSlot = new Map<number, number>();
    if (mesh.faceMaterial)
      for (const slot of mesh.faceMaterial) perSlot.set(slot, (perSlot.get(slot) ?? 0) + 1);
    else if (mesh.faceCounts.length > 0) perSlot.set(0, mesh.faceCounts.length);
    for (const [slot, faces] of perSlot) {
      const key = document.materials[node.materials[slot] ?? -1]?.key ?? '';
      counts[key] = (counts[key] ?? 0) + faces;
    }
  }
  return counts;
}
