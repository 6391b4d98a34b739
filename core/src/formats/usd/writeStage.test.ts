import { describe, expect, it, vi } from 'vitest';
import {
  type Camera,
  createDocument,
  createMesh,
  createNode,
  type Light,
  type SceneDocument,
} from '../../scene/document.ts';
import {
  type Channel,
  type ChannelName,
  createMapUse,
  createMaterial,
  type MapUse,
  type Material,
} from '../../scene/material.ts';
import { lens } from '../../test/lens.ts';
import { AssetPath, type PrimSpec, type UsdValue } from './layer.ts';
import { buildStage } from './writeStage.ts';

const plain = (value: UsdValue | undefined): unknown => {
  if (value instanceof AssetPath) return `@${value.path}@`;
  if (ArrayBuffer.isView(value)) return Array.from(value as Float64Array, Number);
  return value;
};
/** Values and targets of a prim's properties by name. */
const say = (prim: PrimSpec | undefined) =>
  Object.fromEntries(
    [...(prim?.properties ?? [])].map(([name, { value, targets }]) => [
      name,
      targets.length > 0 ? targets.map((target) => `<${target}>`).join() : plain(value),
    ]),
  );
const under = (prim: PrimSpec | undefined, ...path: string[]): PrimSpec | undefined =>
  path.reduce<PrimSpec | undefined>((at, name) => at?.children.find((child) => child.name === name), prim);

type Channels = Partial<Record<ChannelName, { value?: Channel['value']; map?: Partial<MapUse> }>>;

function withMaterial(channels: Channels, more: Partial<Material> = {}): SceneDocument {
  const document = createDocument('usd', 'usda');
  const material = Object.assign(createMaterial('Hull', more.workflow ?? 'metalRough'), more);
  for (const [channel, { value = 1, map }] of Object.entries(channels) as [
    ChannelName,
    { value?: Channel['value']; map?: Partial<MapUse> },
  ][])
    material.channels[channel] = {
      value,
      map: map ? createMapUse('hull.png', channel, map) : null,
      source: { from: 'file', detail: '' },
    };
  document.materials.push(material);
  document.images.push({ key: 'hull.png', written: 'hull.png', relative: null, embedded: null });
  return document;
}

function look(channels: Channels, more: Partial<Material> = {}) {
  const { layer, losses } = buildStage(withMaterial(channels, more), { name: 'boat' });
  const prim = under(layer.prims[0], 'Looks', 'Hull');
  return {
    prim,
    surface: say(under(prim, 'Surface')),
    node: (name: string) => say(under(prim, name)),
    losses: losses.map(({ code, channel }) => [code, channel]),
  };
}

describe('a preview surface', () => {
  it('has an input for each channel, with its value', () => {
    const { surface, prim, losses } = look({
      baseColor: { value: [0.5, 0.25, 0] },
      emission: { value: [0, 0, 2] },
      metalness: { value: 1 },
      roughness: { value: 0.5 },
      coat: { value: 0.25 },
      coatRoughness: { value: 0.125 },
      opacity: { value: 0.75 },
      ior: { value: 1.45 },
      occlusion: { value: 1 },
    });
    expect(surface).toEqual({
      'info:id': 'UsdPreviewSurface',
      'inputs:diffuseColor': [0.5, 0.25, 0],
      'inputs:emissiveColor': [0, 0, 2],
      'inputs:metallic': 1,
      'inputs:roughness': 0.5,
      'inputs:clearcoat': 0.25,
      'inputs:clearcoatRoughness': 0.125,
      'inputs:opacity': 0.75,
      'inputs:ior': 1.45,
      'inputs:occlusion': 1,
      'outputs:surface': undefined,
    });
    expect(say(prim)).toEqual({ 'outputs:surface': '</boat/Looks/Hull/Surface.outputs:surface>' });
    expect(losses).toEqual([]);
  });

  it('says spec/gloss, cut-offs and the exponent of classic materials', () => {
    expect(
      look(
        { specularColor: { value: [0.5, 0.5, 0.5] }, glossiness: { value: 0.75 } },
        { workflow: 'specGloss' },
      ).surface,
    ).toMatchObject({
      'inputs:useSpecularWorkflow': 1,
      'inputs:specularColor': [0.5, 0.5, 0.5],
      'inputs:roughness': 0.25,
    });
    expect(look({}, { alphaMode: 'mask', alphaCutoff: 0.25 }).surface['inputs:opacityThreshold']).toBe(0.25);
    // At 0 a surface blends.
    expect(
      look({}, { alphaMode: 'mask', alphaCutoff: 0 }).surface['inputs:opacityThreshold'],
    ).toBeGreaterThan(0);
    expect(look({}, { alphaMode: 'blend', alphaCutoff: 0.25 }).surface).not.toHaveProperty(
      'inputs:opacityThreshold',
    );
    // (2 / (30 + 2))^(1/4) is 0.5.
    expect(look({}, { workflow: 'legacy', exponent: 30 }).surface['inputs:roughness']).toBeCloseTo(0.5, 9);
    expect(
      look({ roughness: { value: 0.9 } }, { workflow: 'legacy', exponent: 30 }).surface['inputs:roughness'],
    ).toBe(0.9);
  });

  it('tells of channels without an input, where they say something', () => {
    expect(
      look({ transmission: { value: 0.5 }, sheenColor: { map: {} }, specularColor: { value: [1, 0, 0] } })
        .losses,
    ).toEqual([
      ['usd.noInput', 'transmission'],
      ['usd.noInput', 'sheenColor'],
      ['usd.noInput', 'specularColor'],
    ]);
    expect(look({ transmission: { value: 0 } }).losses).toEqual([]);
  });
});

describe('a texture of it', () => {
  it('names its file, curve and wrapping, and reads the first UV set', () => {
    const { surface, node } = look({ baseColor: { value: [1, 1, 1], map: { wrap: ['clamp', 'mirror'] } } });
    expect(surface['inputs:diffuseColor']).toBe('</boat/Looks/Hull/baseColor_map.outputs:rgb>');
    expect(node('baseColor_map')).toEqual({
      'info:id': 'UsdUVTexture',
      'inputs:file': '@./hull.png@',
      'inputs:sourceColorSpace': 'sRGB',
      'inputs:wrapS': 'clamp',
      'inputs:wrapT': 'mirror',
      'inputs:st': '</boat/Looks/Hull/uv_st.outputs:result>',
      'outputs:rgb': undefined,
    });
    expect(node('uv_st')).toEqual({
      'info:id': 'UsdPrimvarReader_float2',
      'inputs:varname': 'st',
      'outputs:result': undefined,
    });
  });

  it.each<[ChannelName, Partial<MapUse>, string, string]>([
    ['roughness', { component: 'g' }, 'inputs:roughness', 'g'],
    ['roughness', { component: 'rgb' }, 'inputs:roughness', 'r'],
    ['metalness', { component: 'b' }, 'inputs:metallic', 'b'],
    ['opacity', { component: 'a' }, 'inputs:opacity', 'a'],
    ['baseColor', { component: 'rgb' }, 'inputs:diffuseColor', 'rgb'],
    ['normal', {}, 'inputs:normal', 'rgb'],
  ])('of %s with %j feeds %s from %s', (channel, map, input, output) => {
    expect(look({ [channel]: { map } }).surface[input]).toBe(
      `</boat/Looks/Hull/${channel}_map.outputs:${output}>`,
    );
  });

  it('has scale and bias from value, gain, offset and inversion', () => {
    const range = (channel: ChannelName, value: Channel['value'], map: Partial<MapUse>) => {
      const found = look({ [channel]: { value, map } }).node(`${channel}_map`);
      return [found['inputs:scale'], found['inputs:bias']];
    };
    expect(range('roughness', 1, { component: 'r' })).toEqual([undefined, undefined]);
    expect(range('roughness', 0.5, { component: 'r' })).toEqual([[0.5, 0.5, 0.5, 0.5], undefined]);
    expect(range('roughness', 1, { component: 'r', invert: true })).toEqual([
      [-1, -1, -1, -1],
      [1, 1, 1, 1],
    ]);
    // 0.5 (3 x + 0.25).
    expect(range('roughness', 0.5, { component: 'r', gain: 3, offset: 0.25 })).toEqual([
      [1.5, 1.5, 1.5, 1.5],
      [0.125, 0.125, 0.125, 0.125],
    ]);
    expect(range('baseColor', [0.5, 1, 0.25], {})).toEqual([[0.5, 1, 0.25, 1], undefined]);
    // Gloss stands in for roughness: 1 - value x.
    expect(range('glossiness', 0.5, { component: 'r' })).toEqual([
      [-0.5, -0.5, -0.5, -0.5],
      [1, 1, 1, 1],
    ]);
    expect(range('normal', 1, {})).toEqual([
      [2, 2, 2, 1],
      [-1, -1, -1, 0],
    ]);
    expect(range('normal', 1, { normalY: 'Y-', strength: 0.5 })).toEqual([
      [1, -1, 2, 1],
      [-0.5, 0.5, -1, 0],
    ]);
  });

  it('is placed by a node of its own', () => {
    const { node } = look({
      baseColor: { map: { transform: { offset: [0.5, 0.25], scale: [2, 3], rotation: Math.PI / 2 } } },
    });
    expect(node('baseColor_map')['inputs:st']).toBe('</boat/Looks/Hull/baseColor_placement.outputs:result>');
    expect(node('baseColor_placement')).toEqual({
      'info:id': 'UsdTransform2d',
      'inputs:in': '</boat/Looks/Hull/uv_st.outputs:result>',
      'inputs:scale': [2, 3],
      'inputs:rotation': 90,
      'inputs:translation': [0.5, 0.25],
      'outputs:result': undefined,
    });
  });

  it('says raw or auto, and tells of spaces that have no word, and of luminance', () => {
    const space = (map: Partial<MapUse>) => {
      const { node, losses } = look({ baseColor: { map } });
      return [node('baseColor_map')['inputs:sourceColorSpace'], ...losses.map(([code]) => code)];
    };
    expect(space({ space: 'srgb_rec709_scene' })).toEqual(['sRGB']);
    expect(space({ space: 'data' })).toEqual(['raw']);
    expect(space({ space: 'lin_rec709_scene' })).toEqual(['raw']);
    expect(space({ space: 'unknown' })).toEqual(['auto']);
    expect(space({ space: 'lin_ap1_scene' })).toEqual(['raw', 'usd.space']);
    expect(look({ roughness: { map: { component: 'luminance' } } }).losses).toEqual([
      ['usd.luminance', 'roughness'],
    ]);
  });

  it('tells of materials that blend or are cut out by nothing, which it has opaque', () => {
    const codes = (opacity: Parameters<typeof look>[0], alphaMode: 'opaque' | 'mask' | 'blend') =>
      look(opacity, { alphaMode }).losses.map(([code]) => code);
    expect(codes({}, 'opaque')).toEqual([]);
    expect(codes({}, 'blend')).toEqual(['usd.blend']);
    expect(codes({ opacity: { value: 1 } }, 'mask')).toEqual(['usd.blend']);
    expect(codes({ opacity: { value: 0.99 } }, 'blend')).toEqual([]);
    expect(codes({ opacity: { map: { component: 'a' } } }, 'mask')).toEqual([]);
  });

  it('reads a second UV set by its name, and the first as st whatever its name', () => {
    const name = (set: string) => {
      const document = withMaterial({ baseColor: { map: { uvSet: set } } });
      const layer = (own: string) => ({
        name: own,
        size: 2 as const,
        domain: 'corner' as const,
        values: new Float64Array(6),
        index: null,
      });
      document.meshes.push(
        createMesh('hull', {
          points: new Float64Array(9),
          faceCounts: Uint32Array.of(3),
          faceCorners: Uint32Array.of(0, 1, 2),
          uvSets: [layer('map1'), layer('light map')],
        }),
      );
      document.nodes.push(createNode('hull', 'mesh', -1, { mesh: 0, materials: [0] }));
      const looks = under(buildStage(document, { name: 'boat' }).layer.prims[0], 'Looks', 'Hull');
      return looks?.children
        .filter(({ name: one }) => one.startsWith('uv_'))
        .map((prim) => plain(prim.properties.get('inputs:varname')?.value));
    };
    expect(name('map1')).toEqual(['st']);
    expect(name('light map')).toEqual(['light_map']);
    expect(name('gone')).toEqual(['st']);
  });
});

describe('the stage', () => {
  it('says what holds for the whole', () => {
    const document = Object.assign(createDocument('usd', 'usda'), { metresPerUnit: 0.01 });
    document.clips.push(
      { name: 'swing', start: 1, end: 3, tracks: [] },
      { name: 'lift', start: 0, end: 1, tracks: [] },
    );
    const { layer, losses } = buildStage(document, { name: 'boat', creator: 'Harbour 1' });
    expect(layer.metadata).toMatchObject({
      defaultPrim: 'boat',
      metersPerUnit: 0.01,
      upAxis: 'Y',
      customLayerData: { creator: 'Harbour 1' },
    });
    expect([layer.metadata.startTimeCode, layer.metadata.endTimeCode]).toEqual(
      [1, 3].map((seconds) => seconds * Number(layer.metadata.timeCodesPerSecond)),
    );
    expect(losses).toEqual([{ code: 'usd.clips', part: 'lift' }]);
  });

  const camera: Camera = lens({ name: 'quay', width: 10 });
  const light: Light = {
    name: 'lamp',
    kind: 'point',
    colour: [1, 0.5, 0],
    intensity: 3,
    castsShadow: true,
    innerAngle: 30,
    outerAngle: 40,
    size: [4, 2],
  };
  const stageOf = (change: (document: SceneDocument) => void) => {
    const document = createDocument('usd', 'usda');
    change(document);
    const { layer, losses } = buildStage(document, { name: 'boat' });
    return { prim: layer.prims[0].children[0], losses: losses.map(({ code }) => code) };
  };
  const seen = (more: Partial<Camera>) =>
    say(
      stageOf((document) => {
        document.cameras.push({ ...camera, ...more });
        document.nodes.push(createNode('quay', 'camera', -1, { camera: 0 }));
      }).prim,
    );

  it('has cameras by lens, window and range', () => {
    expect(seen({})).toMatchObject({
      projection: 'perspective',
      focalLength: 35,
      horizontalAperture: 36,
      verticalAperture: 24,
      clippingRange: [0.1, 100],
    });
    // Ten units wide, in tenths.
    expect(seen({ projection: 'orthographic' })).toMatchObject({
      projection: 'orthographic',
      horizontalAperture: 100,
      verticalAperture: expect.closeTo(100 / 1.5, 6),
    });
    expect(seen({ far: Number.POSITIVE_INFINITY })).toMatchObject({ clippingRange: [0.1, 1e9] });
  });

  const ball = { 'inputs:normalize': true, 'inputs:radius': 2 };
  // Three candela in a stage in centimetres: a ball that is normalised shows a quarter of its nits.
  const nits = 3 * 4 * 100 ** 2;
  it.each<[Partial<Light> & Pick<Light, 'kind'>, string, Record<string, unknown>]>([
    [{ kind: 'point' }, 'SphereLight', { 'inputs:intensity': nits, ...ball }],
    [
      { kind: 'point', size: [0, 0] },
      'SphereLight',
      { 'inputs:intensity': nits, ...ball, 'inputs:radius': 1, treatAsPoint: true },
    ],
    [{ kind: 'directional' }, 'DistantLight', { 'inputs:intensity': 3, 'inputs:normalize': true }],
    [
      { kind: 'spot' },
      'SphereLight',
      {
        'inputs:intensity': nits,
        ...ball,
        'inputs:shaping:cone:angle': 20,
        'inputs:shaping:cone:softness': 0.25,
      },
    ],
    [{ kind: 'area' }, 'RectLight', { 'inputs:intensity': 3, 'inputs:width': 4, 'inputs:height': 2 }],
    [{ kind: 'area', shape: 'disk' }, 'DiskLight', { 'inputs:intensity': 3, 'inputs:radius': 2 }],
    [
      { kind: 'area', shape: 'tube' },
      'CylinderLight',
      { 'inputs:intensity': 3, 'inputs:length': 4, 'inputs:radius': 1 },
    ],
    [{ kind: 'dome' }, 'DomeLight', { 'inputs:intensity': 3 }],
  ])('has a light %o as %s', (lamp, type, more) => {
    const made = (shadow: boolean) =>
      stageOf((document) => {
        document.metresPerUnit = 0.01;
        document.lights.push({ ...light, ...lamp, castsShadow: shadow });
        document.nodes.push(createNode('lamp', 'light', -1, { light: 0 }));
      });
    const { prim, losses } = made(true);
    expect(prim.typeName).toBe(type);
    expect(say(prim)).toEqual({ 'inputs:color': [1, 0.5, 0], ...more });
    expect(losses).toEqual([]);
    expect(
      stageOf((document) => {
        document.lights.push({ ...light, fading: 'none' });
        document.nodes.push(createNode('lamp', 'light', -1, { light: 0 }));
      }).losses,
    ).toEqual(['light.fading']);
    const dark = made(false).prim;
    expect(say(dark)).toMatchObject({ 'inputs:shadow:enable': false });
    const apis = lamp.kind === 'spot' ? ['ShapingAPI', 'ShadowAPI'] : ['ShadowAPI'];
    expect(dark.metadata.apiSchemas).toMatchObject({ prepended: apis });
  });

  it('shows in a dome what it showed, by its path in the package', () => {
    const { prim } = stageOf((document) => {
      document.images.push({ key: 'sky', written: 'maps/sky.exr', relative: null, embedded: null });
      document.lights.push({ ...light, kind: 'dome', sky: { image: 'sky', layout: 'latlong' } });
      document.nodes.push(createNode('lamp', 'light', -1, { light: 0 }));
    });
    expect(say(prim)).toMatchObject({
      'inputs:texture:file': '@maps/sky.exr@',
      'inputs:texture:format': 'latlong',
    });
  });

  it('gives a second part no name that is a third one’s', () => {
    const document = createDocument('usd', 'usda');
    for (const name of ['Bolt', 'Bolt', 'Bolt_2', 'Bolt']) document.nodes.push(createNode(name, 'group', -1));
    const names = buildStage(document, { name: 'boat' }).layer.prims[0].children.map(({ name }) => name);
    expect(names).toEqual(['Bolt', 'Bolt_3', 'Bolt_2', 'Bolt_4']);
  });

  it('cleans the names of all nodes once, not once for every group', () => {
    const document = createDocument('usd', 'usda');
    for (let i = 0; i < 400; i += 1)
      document.nodes.push(createNode(`rail ${i}`, 'group', i % 2 === 0 ? -1 : i - 1));
    const cleaned = vi.spyOn(String.prototype, 'normalize');
    try {
      expect(buildStage(document, { name: 'boat' }).layer.prims[0].children).toHaveLength(200);
      expect(cleaned.mock.calls.length).toBeLessThan(400 * 10);
    } finally {
      cleaned.mockRestore();
    }
  });

  it('makes a mesh without a point a place like any other, which every reader opens', () => {
    const document = createDocument('usd', 'usda');
    document.meshes.push(
      createMesh('none', {
        points: new Float64Array(0),
        faceCounts: new Uint32Array(0),
        faceCorners: new Uint32Array(0),
      }),
    );
    document.nodes.push(
      createNode('Hollow', 'mesh', -1, { mesh: 0 }),
      createNode('Crate', 'mesh', -1, { mesh: 0 }),
      createNode('Lid', 'group', 1),
    );
    const prims = buildStage(document, { name: 'boat' }).layer.prims[0].children;
    expect(prims.map(({ name, typeName, children }) => [name, typeName, children.length])).toEqual([
      ['Hollow', 'Xform', 0],
      ['Crate', 'Xform', 1],
    ]);
  });

  it('says sides of parts, and tells which of their materials show both for the sake of others', () => {
    const document = createDocument('usd', 'usda');
    const [one, two, spare] = ['Net', 'Flag', 'Spare'].map((name) => createMaterial(name, 'metalRough'));
    two.doubleSided = true;
    spare.doubleSided = true;
    document.materials.push(one, two, spare);
    const triangles = (faceMaterial: number[]) =>
      createMesh('cloth', {
        points: new Float64Array(9),
        faceCounts: new Uint32Array(faceMaterial.length).fill(3),
        faceCorners: Uint32Array.from({ length: faceMaterial.length * 3 }, (_, i) => i % 3),
        faceMaterial: Int32Array.from(faceMaterial),
      });
    document.meshes.push(triangles([0, 1]), triangles([0, 0]));
    document.nodes.push(
      createNode('both', 'mesh', -1, { mesh: 0, materials: [0, 1] }),
      // Nobody sees the second of its slots.
      createNode('single', 'mesh', -1, { mesh: 1, materials: [0, 2] }),
    );
    const { layer, losses } = buildStage(document, { name: 'boat' });
    const sides = layer.prims[0].children.map(({ name, properties }) => [
      name,
      properties.get('doubleSided')?.value,
    ]);
    expect(sides).toEqual([
      ['both', true],
      ['single', undefined],
      ['Looks', undefined],
    ]);
    expect(losses).toEqual([{ code: 'usd.sides', material: 'Net', detail: 'both' }]);
  });

  it('calls nodes by names that paths can hold, hides what is hidden, and keeps a mesh with children apart', () => {
    const document = createDocument('usd', 'usda');
    document.meshes.push(
      createMesh('plate', {
        points: new Float64Array(9),
        faceCounts: Uint32Array.of(3),
        faceCorners: Uint32Array.of(0, 1, 2),
      }),
    );
    document.nodes.push(
      createNode('deck 1', 'mesh', -1, { mesh: 0, visible: false }),
      createNode('rail', 'group', 0),
      createNode('rail', 'group', 0),
      createNode('hatch', 'mesh', -1, { mesh: 0 }),
    );
    const root = buildStage(document, { name: 'boat' }).layer.prims[0];
    expect(
      root.children.map(({ name, typeName, metadata }) => [name, typeName, metadata.displayName]),
    ).toEqual([
      ['deck_1', 'Xform', 'deck 1'],
      ['hatch', 'Mesh', undefined],
    ]);
    expect(say(root.children[0]).visibility).toBe('invisible');
    expect(root.children[0].children.map(({ name, typeName }) => [name, typeName])).toEqual([
      ['deck_1', 'Mesh'],
      ['rail', 'Xform'],
      ['rail_2', 'Xform'],
    ]);
  });
});
