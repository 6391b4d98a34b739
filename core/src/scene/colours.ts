import type { Layer, PolygonMesh, SceneDocument } from './document.ts';
import type { Loss } from './loss.ts';
import { decodeSrgb, encodeSrgb } from './transfer.ts';

/**
 * Colours of points as light. Documents hold them so, as glTF and USD do; programs write those of FBX and OBJ by the
 * curve of sRGB, as they are picked on a screen.
 */
export function asLight<Values extends Pick<Layer, 'size' | 'values'>>(layer: Values): Values {
  return changed(layer, decodeSrgb);
}

/** Colours of points as FBX and OBJ have them. */
export function asPicked<Values extends Pick<Layer, 'size' | 'values'>>(layer: Values): Values {
  return changed(layer, encodeSrgb);
}

/** Alpha has no curve, and white stays white to the bit. */
function changed<Values extends Pick<Layer, 'size' | 'values'>>(
  layer: Values,
  curve: (value: number) => number,
): Values {
  const keeps = (value: number, i: number) => value === 1 || i % layer.size === 3;
  return { ...layer, values: layer.values.map((value, i) => (keeps(value, i) ? value : curve(value))) };
}

/** Less than a step of sixteen bits. */
const WHITE = 1e-5;

/** Whether colours of a mesh's points say more than white. */
export function saysColours({ colours: [first] }: Pick<PolygonMesh, 'colours'>): boolean {
  if (!first) return false;
  for (const value of first.values) if (Math.abs(value - 1) > WHITE) return true;
  return false;
}

/** Which materials are on parts whose colours say more than white, by their places in the document. */
export function materialsUnderColours({
  nodes,
  meshes,
}: Pick<SceneDocument, 'nodes' | 'meshes'>): Set<number> {
  const says = meshes.map(saysColours);
  return new Set(nodes.flatMap(({ mesh, materials }) => (mesh >= 0 && says[mesh] ? materials : [])));
}

/** Of formats without a word for it: materials that show colours of points, or do not, otherwise than is usual. */
export function coloursUnsaid(document: SceneDocument, detail: string): Loss[] {
  return [...materialsUnderColours(document)].flatMap((index): Loss[] => {
    const material = document.materials[index];
    return material?.colours ? [{ code: 'colours.unsaid', material: material.key, detail }] : [];
  });
}
