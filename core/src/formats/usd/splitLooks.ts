import { createPrim, type PrimSpec, type UsdLayer } from './layer.ts';

/**
 * One layer as two: geometry in the root, materials and their bindings in a weaker layer that the root takes
 * in, so that looks can be exchanged without touching the geometry.
 */
export function splitLooks(layer: UsdLayer, looksPath: string): { root: UsdLayer; looks: UsdLayer } {
  const parts = layer.prims.map(splitPrim);
  return {
    root: {
      metadata: { ...layer.metadata, subLayers: [`./${looksPath}`] },
      prims: parts.map((part) => part.shape).filter((prim) => prim !== null),
    },
    looks: {
      metadata: { ...layer.metadata },
      prims: parts.map((part) => part.look).filter((prim) => prim !== null),
    },
  };
}

function splitPrim(prim: PrimSpec): { shape: PrimSpec | null; look: PrimSpec | null } {
  if (
    prim.typeName === 'Material' ||
    (prim.typeName === 'Scope' &&
      prim.children.length > 0 &&
      prim.children.every((child) => child.typeName === 'Material'))
  ) {
    return { shape: null, look: prim };
  }
  const parts = prim.children.map(splitPrim);
  const shape: PrimSpec = {
    ...prim,
    properties: new Map(prim.properties),
    children: parts.map((part) => part.shape).filter((child) => child !== null),
  };
  const look = createPrim(prim.name, '', 'over');
  look.children = parts.map((part) => part.look).filter((child) => child !== null);
  const binding = prim.properties.get('material:binding');
  if (binding) {
    shape.properties.delete('material:binding');
    look.properties.set('material:binding', binding);
  }
  return { shape, look: look.children.length + look.properties.size > 0 ? look : null };
}
