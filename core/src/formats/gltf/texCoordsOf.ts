import { ExtensionProperty, type Material, Texture, type TextureInfo } from '@gltf-transform/core';

type Getters = Record<string, () => unknown>;

/**
 * How many UV sets a primitive must have for the images of a material, those of its extensions among them.
 */
export function texCoordsOf(material: Material | null): number {
  if (!material) return 0;
  const extensions = material
    .listExtensions()
    .filter((extension): extension is ExtensionProperty => extension instanceof ExtensionProperty);
  return Math.max(
    0,
    ...[material, ...extensions].flatMap((property) => setsOf(property as unknown as Getters)),
  );
}

function setsOf(property: Getters): number[] {
  const sets: number[] = [];
  for (
    let type = Object.getPrototypeOf(property);
    type && type !== Object.prototype;
    type = Object.getPrototypeOf(type)
  )
    for (const name of Object.getOwnPropertyNames(type)) {
      if (!/^get\w+Texture$/.test(name) || !(property[name]() instanceof Texture)) continue;
      sets.push((property[`${name}Info`]() as TextureInfo).getTexCoord() + 1);
    }
  return sets;
}
