import type { AssetImage, AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import { sha256 } from '../parcel/hash.ts';
import { TAKE_ALL } from '../scene/intake.ts';
import {
  type ChannelName,
  createMapUse,
  createMaterial,
  type MapUse,
  type Material,
  unitValue,
} from '../scene/material.ts';

/** A material whose channels read images by path, for tests of edits and findings. */
export function testMaterial(
  name: string,
  maps: Partial<Record<ChannelName, string | Partial<MapUse>>> = {},
): Material {
  const material = createMaterial(name, 'metalRough');
  for (const [channel, map] of Object.entries(maps) as [ChannelName, string | Partial<MapUse>][]) {
    const use =
      typeof map === 'string' ? createMapUse(map, channel) : createMapUse(map.image ?? '', channel, map);
    material.channels[channel] = {
      value: unitValue(channel),
      map: use,
      source: { from: 'file', detail: '' },
    };
  }
  return material;
}

export function testImage(path: string, info: Partial<NonNullable<ParcelImage['info']>> = {}): ParcelImage {
  const header = {
    format: 'png' as const,
    width: 64,
    height: 64,
    bitDepth: 8 as const,
    floating: false,
    components: 3,
    ...info,
  };
  return {
    path,
    size: 100,
    sha256: sha256(new TextEncoder().encode(path)),
    modified: null,
    info: header,
    fault: null,
  };
}

/** Every image that a material reads, found under its own path. */
export function testState(materials: Material[], missing: readonly string[] = []): AssetState {
  const keys = [
    ...new Set(
      materials.flatMap((material) =>
        Object.values(material.channels).flatMap(({ map }) => (map ? [map.image] : [])),
      ),
    ),
  ];
  const images = keys.map((key): AssetImage => {
    const found = !missing.includes(key);
    return {
      key,
      written: key,
      relative: null,
      status: found ? 'found' : 'missing',
      resolved: found ? key : null,
      how: '',
    };
  });
  return { materials, images, intake: TAKE_ALL };
}

export function testSource(state: AssetState): AssetSource {
  return {
    name: 'thing',
    model: 'thing.obj',
    format: 'obj',
    variant: 'OBJ',
    generator: '',
    metresPerUnit: 1,
    unitStated: true,
    upAxis: 'Y',
    counts: {
      nodes: 1,
      meshes: 1,
      polygons: 1,
      triangles: 2,
      points: 4,
      placedPolygons: 1,
      placedTriangles: 2,
      materials: state.materials.length,
      maps: 0,
      cameras: 0,
      lights: 0,
      clips: 0,
      skins: 0,
    },
    bounds: null,
    materials: state.materials,
    facesPerMaterial: {},
    uvSets: ['map1'],
    nodes: [],
    images: state.images,
    remarks: [],
  };
}
