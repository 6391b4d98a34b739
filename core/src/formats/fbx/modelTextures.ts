import type { SceneDocument } from '../../scene/document.ts';
import { type ChannelName, createMapUse, unitValue } from '../../scene/material.ts';
import type { FbxObject, ObjectTable } from './objects.ts';
import { type AddImage, readImage, textureOptions } from './readMaterial.ts';
import { childOf, childrenOf, integersOf, textAt } from './tree.ts';

/**
 * Layer elements of 6.x meshes that say which of the model's textures each face shows, and the channel they
 * feed.
 */
const ELEMENTS: Record<string, ChannelName> = {
  LayerElementTexture: 'baseColor',
  LayerElementDiffuseTextures: 'baseColor',
  LayerElementSpecularTextures: 'specularColor',
  LayerElementSpecularFactorTextures: 'specular',
  LayerElementShininessTextures: 'glossiness',
  LayerElementBumpTextures: 'bump',
  LayerElementNormalMapTextures: 'normal',
  LayerElementEmissiveTextures: 'emission',
  LayerElementTransparentTextures: 'opacity',
};

/**
 * In 6.x files textures hang on the model rather than on its materials: each face names a texture of the
 * model's list beside its material. A material takes the texture of the first face that shows both; slots
 * that the material fills itself stay.
 */
export function assignModelTextures(
  document: SceneDocument,
  table: ObjectTable,
  nodes: Map<string, number>,
  addImage: AddImage,
): void {
  for (const [id, index] of nodes) {
    const textures = table
      .childrenOf(id)
      .filter((link) => link.object.kind === 'Texture' && link.property === '');
    if (textures.length === 0) continue;
    const model = table.objects.get(id) as FbxObject;
    const node = document.nodes[index];
    for (const [element, channel] of Object.entries(ELEMENTS)) {
      const record = childrenOf(model.node, element)[0];
      if (!record) continue;
      for (const [slot, texture] of texturePerSlot(
        record,
        document.meshes[node.mesh]?.faceMaterial ?? null,
      )) {
        const material = document.materials[node.materials[slot] ?? -1];
        const object = textures[texture]?.object;
        if (!material || !object || material.channels[channel]?.map) continue;
        const image = addImage(readImage(object, table));
        const value = material.channels[channel]?.value ?? unitValue(channel);
        material.channels[channel] = {
          value,
          map: createMapUse(image.key, channel, textureOptions(object)),
          source: { from: 'file', detail: element },
        };
      }
    }
  }
}

function texturePerSlot(
  record: NonNullable<ReturnType<typeof childOf>>,
  faceMaterial: Int32Array | null,
): Map<number, number> {
  const slotOfLayer = new Map<number, number>();
  const ids = integersOf(childOf(record, 'TextureId')) ?? Int32Array.of(0);
  const mapping = textAt(childOf(record, 'MappingInformationType'), 0);
  if (mapping === 'NoMappingInformation' || ids.length === 0) return slotOfLayer;
  if (mapping === 'AllSame') {
    const slots = faceMaterial ? new Set(faceMaterial) : new Set([0]);
    for (const slot of slots) if (ids[0] >= 0) slotOfLayer.set(slot, ids[0]);
    return slotOfLayer;
  }
  ids.forEach((texture, face) => {
    const slot = faceMaterial?.[face] ?? 0;
    if (texture >= 0 && !slotOfLayer.has(slot)) slotOfLayer.set(slot, texture);
  });
  return slotOfLayer;
}
