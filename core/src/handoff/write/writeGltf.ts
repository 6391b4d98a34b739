import { Document } from '@gltf-transform/core';
import { gltfIo } from '../../formats/gltf/io.ts';
import { addGeometry } from '../../formats/gltf/writeScene.ts';
import { createNamer } from '../../parcel/names.ts';
import type { SceneDocument } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import { type Material, showsColours } from '../../scene/material.ts';
import { setPlace } from '../../scene/setPlace.ts';
import type { HandoffPlan } from '../plan/plan.ts';
import { addMaterials } from './gltfMaterials.ts';

/** Files of a package by their path in it. */
export type PackageFiles = Map<string, Uint8Array>;

/**
 * Writes the model as `NAME.glb`, or as `NAME.gltf` with `NAME.bin` and `maps/`. Materials of the document
 * that are not in the plan are left off; what the format cannot hold is told. `images` holds the content of
 * each planned image by file name.
 */
export async function writeGltf(
  document: SceneDocument,
  plan: HandoffPlan,
  images: ReadonlyMap<string, Uint8Array>,
  { name, variant }: { name: string; variant: 'glb' | 'gltf' },
): Promise<{ files: PackageFiles; losses: Loss[] }> {
  const gltf = new Document();
  gltf.createBuffer(name);
  const bytesOf = (file: string) => images.get(file) as Uint8Array;
  const materials = addMaterials(gltf, inMetres(plan, document), bytesOf, (material, set) =>
    uvIndex(document, material, set),
  );
  const indexOf = new Map(plan.materials.map((material, i) => [material.key, i]));
  const materialOf = (index: number) => {
    const key = document.materials[index]?.key;
    return key === undefined ? null : (materials[indexOf.get(key) ?? -1] ?? null);
  };
  const nameOf = createNamer(document.nodes.map((node) => node.name));
  const losses = addGeometry(gltf, withColoursAs(document, plan), materialOf, nameOf);
  gltf.getRoot().getAsset().generator = 'Kinkajou';
  const [buffer] = gltf.getRoot().listBuffers();
  const carriesImages = variant === 'glb' && gltf.getRoot().listTextures().length > 0;
  // Cameras and lights alone have no bytes, and a buffer without any is invalid.
  if (gltf.getRoot().listAccessors().length === 0 && !carriesImages) buffer.dispose();
  else buffer.setURI(variant === 'gltf' ? `${name}.bin` : '');
  const io = await gltfIo();
  if (variant === 'glb') {
    for (const texture of gltf.getRoot().listTextures()) texture.setURI('');
    return { files: new Map([[`${name}.glb`, await io.writeBinary(gltf)]]), losses };
  }
  const { json, resources } = await io.writeJSON(gltf, { basename: name });
  const files: PackageFiles = new Map([
    [`${name}.gltf`, new TextEncoder().encode(JSON.stringify(json, null, 1))],
  ]);
  for (const [path, bytes] of Object.entries(resources)) files.set(decodeURIComponent(path), bytes);
  return { files, losses };
}

/** The plan with glass as thick as it is in metres. */
function inMetres(plan: HandoffPlan, { metresPerUnit }: SceneDocument): HandoffPlan {
  const materials = plan.materials.map((planned) => {
    const { shading } = planned;
    return { ...planned, shading: { ...shading, thickness: shading.thickness * metresPerUnit } };
  });
  return { ...plan, materials };
}

/** Materials that show colours of points where the planned ones do. */
function withColoursAs(document: SceneDocument, plan: HandoffPlan): SceneDocument {
  const shows = new Map(plan.materials.map(({ key, source }) => [key, showsColours(source)]));
  const materials = document.materials.map((material): Material => {
    const shown = shows.get(material.key) ?? showsColours(material);
    return { ...material, colours: shown ? 'shown' : 'passed' };
  });
  return { ...document, materials };
}

/** Position of a named UV set on the meshes that a material is on; 0 for the first or an unknown one. */
function uvIndex(document: SceneDocument, material: string, set: string | null): number {
  if (set === null) return 0;
  const index = document.materials.findIndex((other) => other.key === material);
  return Math.max(
    0,
    setPlace(document, set, ({ materials }) => materials.includes(index)),
  );
}
