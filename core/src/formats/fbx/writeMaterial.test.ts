import { describe, expect, it } from 'vitest';
import { createDocument, type SceneDocument } from '../../scene/document.ts';
import {
  type Channel,
  type ChannelName,
  createMapUse,
  createMaterial,
  type MapUse,
  type Material,
} from '../../scene/material.ts';
import { riggedCrane } from '../../test/rigged.ts';
import { parseBinaryFbx } from './parseBinary.ts';
import { type FbxNode, type FbxProperty, textAt } from './tree.ts';
import { writeFbx } from './writeFbx.ts';

const sections = (document: SceneDocument) => {
  const { nodes } = parseBinaryFbx(writeFbx(document).bytes, 'a.fbx');
  return (name: string) => nodes.find((node) => node.name === name)?.children ?? [];
};
const values = (properties: readonly FbxProperty[]) => properties.map(({ value }) => value);
const child = (node: FbxNode | undefined, name: string) =>
  values(node?.children.find((one) => one.name === name)?.properties ?? []);
const numbers = (node: FbxNode | undefined, name: string) =>
  Array.from(child(node, name)[0] as ArrayLike<number | bigint>, Number);
const propertiesOf = (node: FbxNode | undefined) =>
  Object.fromEntries(
    (node?.children.find(({ name }) => name === 'Properties70')?.children ?? []).map((entry) => [
      textAt(entry, 0),
      values(entry.properties.slice(4)),
    ]),
  );

function withMaterial(
  workflow: Material['workflow'],
  channels: Partial<Record<ChannelName, { value?: Channel['value']; map?: Partial<MapUse> }>>,
  more: Partial<Material> = {},
) {
  const document = createDocument('fbx', 'binary');
  const material = Object.assign(createMaterial('Hull', workflow), more);
  for (const [channel, { value = 1, map }] of Object.entries(channels) as [
    ChannelName,
    { value?: Channel['value']; map?: Partial<MapUse> },
  ][])
    material.channels[channel] = {
      value,
      map: map ? createMapUse('tex/hull.png', channel, map) : null,
      source: { from: 'file', detail: '' },
    };
  document.materials.push(material);
  document.images.push({ key: 'tex/hull.png', written: 'tex/hull.png', relative: null, embedded: null });
  return document;
}

describe('materials in FBX', () => {
  const written = (...given: Parameters<typeof withMaterial>) =>
    propertiesOf(sections(withMaterial(...given))('Objects').find(({ name }) => name === 'Material'));

  it('have classic properties, and a block of modern ones', () => {
    const found = written('metalRough', {
      baseColor: { value: [0.5, 0.25, 0] },
      metalness: { value: 1 },
      roughness: { value: 0.5 },
      ior: { value: 2 },
      opacity: { value: 0.25 },
    });
    expect(found).toEqual({
      DiffuseColor: [0.5, 0.25, 0],
      DiffuseFactor: [1],
      EmissiveColor: [0, 0, 0],
      EmissiveFactor: [1],
      // ((2 - 1) / (2 + 1))^2 = 1 / 9.
      SpecularColor: [1 / 9, 1 / 9, 1 / 9].map((value) => expect.closeTo(value, 9)),
      SpecularFactor: [1],
      // 2 / 0.5^4 - 2.
      ShininessExponent: [30],
      TransparentColor: [1, 1, 1],
      TransparencyFactor: [0.75],
      Opacity: [0.25],
      'Kinkajou|pbr|base_color': [0.5, 0.25, 0, 1],
      'Kinkajou|pbr|metalness': [1],
      'Kinkajou|pbr|roughness': [0.5],
      'Kinkajou|pbr|ior': [2],
      'Kinkajou|pbr|opacity': [0.25],
    });
  });

  it('are classic alone where they were', () => {
    const found = written(
      'legacy',
      {
        baseColor: { value: [1, 0, 0] },
        specularColor: { value: [0.5, 0.5, 0.5] },
        bump: { value: 2, map: {} },
        height: { value: 3, map: {} },
      },
      { exponent: 20 },
    );
    expect(found).toMatchObject({
      DiffuseColor: [1, 0, 0],
      SpecularColor: [0.5, 0.5, 0.5],
      SpecularFactor: [1],
      ShininessExponent: [20],
      BumpFactor: [2],
      DisplacementFactor: [3],
    });
    expect(Object.keys(found).filter((name) => name.startsWith('Kinkajou'))).toEqual([]);
    // The strength of a highlight without a colour, and none at all.
    expect(written('legacy', { specular: { value: 0.3 } })).toMatchObject({
      SpecularColor: [1, 1, 1],
      SpecularFactor: [0.3],
    });
    expect(written('legacy', {})).toMatchObject({ SpecularColor: [0, 0, 0], SpecularFactor: [1] });
    expect(
      written('legacy', { specular: { value: 0.3 }, specularColor: { value: [1, 1, 0] } }),
    ).toMatchObject({
      SpecularColor: [1, 1, 0],
      SpecularFactor: [1],
    });
  });
});

describe('maps in FBX', () => {
  const link = (channel: ChannelName, workflow: Material['workflow'] = 'metalRough') => {
    const read = sections(withMaterial(workflow, { [channel]: { map: {} } }));
    return read('Connections')
      .map(({ properties }) => values(properties))
      .find(([kind]) => kind === 'OP')?.[3];
  };

  it.each<[ChannelName, string, string]>([
    ['baseColor', 'DiffuseColor', 'DiffuseColor'],
    ['normal', 'NormalMap', 'NormalMap'],
    ['bump', 'Bump', 'Bump'],
    ['emission', 'EmissiveColor', 'EmissiveColor'],
    ['specularColor', 'SpecularColor', 'Kinkajou|pbr|specular_color_map'],
    ['specular', 'SpecularFactor', 'Kinkajou|pbr|specular_level_map'],
    ['glossiness', 'ShininessExponent', 'Kinkajou|pbr|glossiness_map'],
    ['opacity', 'TransparentColor', 'Kinkajou|pbr|opacity_map'],
    ['height', 'DisplacementColor', 'Kinkajou|pbr|displacement_map'],
    ['roughness', 'Kinkajou|pbr|roughness_map', 'Kinkajou|pbr|roughness_map'],
    ['coatRoughness', 'Kinkajou|pbr|coat_roughness_map', 'Kinkajou|pbr|coat_roughness_map'],
  ])('of %s are linked to %s, in modern materials to %s', (channel, classic, modern) => {
    expect(link(channel, 'legacy')).toBe(classic);
    expect(link(channel)).toBe(modern);
  });

  it('have their path twice, their wrapping, UV set and place', () => {
    const map = {
      wrap: ['clamp', 'repeat'] as MapUse['wrap'],
      uvSet: 'map2',
      transform: {
        offset: [0.5, 0.25] as [number, number],
        scale: [2, 3] as [number, number],
        rotation: Math.PI / 2,
      },
    };
    const objects = sections(withMaterial('metalRough', { baseColor: { map } }))('Objects');
    const texture = objects.find(({ name }) => name === 'Texture');
    expect([child(texture, 'FileName'), child(texture, 'RelativeFilename')]).toEqual([
      ['tex/hull.png'],
      ['tex/hull.png'],
    ]);
    expect(propertiesOf(texture)).toEqual({
      UVSet: ['map2'],
      WrapModeU: [1],
      WrapModeV: [0],
      UseMaterial: [1],
      Translation: [0.5, 0.25, 0],
      Scaling: [2, 3, 1],
      Rotation: [0, 0, 90],
    });
    expect([child(texture, 'ModelUVTranslation'), child(texture, 'ModelUVScaling')]).toEqual([
      [0.5, 0.25],
      [2, 3],
    ]);
    const video = objects.find(({ name }) => name === 'Video');
    expect([child(video, 'Filename'), child(video, 'RelativeFilename'), propertiesOf(video).Path]).toEqual([
      ['tex/hull.png'],
      ['tex/hull.png'],
      ['tex/hull.png'],
    ]);
  });

  it('of one image share what holds it', () => {
    const objects = sections(
      withMaterial('metalRough', {
        metalness: { map: { component: 'b' } },
        roughness: { map: { component: 'g' } },
      }),
    )('Objects');
    expect(['Texture', 'Video'].map((kind) => objects.filter(({ name }) => name === kind).length)).toEqual([
      2, 1,
    ]);
  });

  it('tell what the file cannot say of them', () => {
    const losses = (channel: ChannelName, map: Partial<MapUse>) =>
      writeFbx(withMaterial('metalRough', { [channel]: { map } })).losses.map(({ code }) => code);
    expect(losses('roughness', { component: 'r' })).toEqual([]);
    expect(losses('roughness', { component: 'g' })).toEqual(['fbx.component']);
    expect(losses('opacity', { component: 'a' })).toEqual([]);
    expect(losses('opacity', { component: 'r' })).toEqual(['fbx.component']);
    expect(losses('baseColor', { invert: true })).toEqual(['fbx.inverted']);
    expect(losses('baseColor', { gain: 2 })).toEqual(['fbx.inverted']);
    expect(losses('baseColor', { offset: 0.5 })).toEqual(['fbx.inverted']);
    expect(losses('normal', { strength: 2 })).toEqual(['fbx.inverted']);
    expect(losses('baseColor', { wrap: ['mirror', 'repeat'] })).toEqual(['fbx.mirror']);
  });
});

describe('what holds for a whole FBX', () => {
  it('are axes, unit and counts of its objects', () => {
    const read = sections(Object.assign(riggedCrane(), { metresPerUnit: 0.01 }));
    const settings = Object.fromEntries(
      (read('GlobalSettings').find(({ name }) => name === 'Properties70')?.children ?? []).map((entry) => [
        textAt(entry, 0),
        values(entry.properties.slice(4))[0],
      ]),
    );
    expect(settings).toMatchObject({
      UpAxis: 1,
      UpAxisSign: 1,
      FrontAxis: 2,
      FrontAxisSign: 1,
      CoordAxis: 0,
      CoordAxisSign: 1,
      UnitScaleFactor: 1,
      OriginalUpAxis: 1,
    });
    const objects = read('Objects');
    const counts = Object.fromEntries(
      read('Definitions').flatMap((node) =>
        node.name === 'ObjectType' ? [[textAt(node, 0), Number(child(node, 'Count')[0])]] : [],
      ),
    );
    expect(counts.GlobalSettings).toBe(1);
    for (const kind of new Set(objects.map(({ name }) => name)))
      expect(counts[kind], kind).toBe(objects.filter(({ name }) => name === kind).length);
    expect(child({ name: '', properties: [], children: read('Definitions') }, 'Count')).toEqual([
      objects.length + 1,
    ]);
  });

  it('are skins: what each bone holds, and where both stood', () => {
    const crane = riggedCrane();
    const objects = sections(crane)('Objects');
    const clusters = objects.filter((node) => node.name === 'Deformer' && textAt(node, 2) === 'Cluster');
    expect(clusters).toHaveLength(3);
    const [influences] = crane.meshes.flatMap(({ influences: one }) => one ?? []);
    clusters.forEach((cluster, joint) => {
      const expected = new Map<number, number>();
      for (let point = 0; point + 1 < influences.starts.length; point += 1)
        for (let i = influences.starts[point]; i < influences.starts[point + 1]; i += 1)
          if (influences.joints[i] === joint) expected.set(point, influences.weights[i]);
      expect(numbers(cluster, 'Indexes')).toEqual([...expected.keys()]);
      numbers(cluster, 'Weights').forEach((weight, i) =>
        expect(weight).toBeCloseTo([...expected.values()][i], 6),
      );
      numbers(cluster, 'Transform').forEach((value, i) =>
        expect(value).toBeCloseTo(crane.skins[0].inverseBind[joint * 16 + i], 9),
      );
    });
  });

  it('are clips: their span in ticks, and curves with the flags of their kind', () => {
    const crane = riggedCrane();
    crane.clips.push({
      name: 'steps',
      start: 0.5,
      end: 1,
      tracks: [
        {
          node: 0,
          path: 'translation',
          times: Float64Array.of(0.5, 1),
          values: Float64Array.of(1, 2, 3, 4, 5, 6),
          interpolation: 'step',
        },
      ],
    });
    const objects = sections(crane)('Objects');
    const stacks = objects.filter(({ name }) => name === 'AnimationStack');
    expect(stacks.map(propertiesOf).at(-1)).toEqual({
      LocalStart: [23_093_079_000n],
      LocalStop: [46_186_158_000n],
      ReferenceStart: [23_093_079_000n],
      ReferenceStop: [46_186_158_000n],
    });
    const curves = objects.filter(({ name }) => name === 'AnimationCurve');
    const [x, y, z] = curves.slice(-3);
    expect([x, y, z].map((curve) => numbers(curve, 'KeyValueFloat'))).toEqual([
      [1, 4],
      [2, 5],
      [3, 6],
    ]);
    // Constant until the next key; linear is 4.
    expect(numbers(x, 'KeyAttrFlags')).toEqual([2]);
    expect(numbers(curves[0], 'KeyAttrFlags')).toEqual([4]);
    expect([child(x, 'Default'), numbers(x, 'KeyAttrRefCount')]).toEqual([[1], [2]]);
  });
});
