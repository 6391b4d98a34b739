import { describe, expect, it } from 'vitest';
import { compareRig } from '../compare/compareRig.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import type { SceneDocument, Track } from '../scene/document.ts';
import {
  type ChannelName,
  colourValue,
  createMapUse,
  createMaterial,
  type MapUse,
  type Material,
} from '../scene/material.ts';
import { evaluateTrack } from '../scene/tracks.ts';
import { riggedCrane } from '../test/rigged.ts';
import { readFbx } from './fbx/readFbx.ts';
import { writeModel } from './writeModel.ts';

const encode = (text: string) => new TextEncoder().encode(text);

/** The crane with one material that reads every image as given. */
function wired(
  workflow: Material['workflow'],
  maps: Partial<Record<ChannelName, Partial<MapUse>>>,
  value: number | [number, number, number] = 1,
): SceneDocument {
  const document = riggedCrane();
  document.clips = [];
  const material = createMaterial('Steel', workflow);
  for (const [name, use] of Object.entries(maps)) {
    const channel = name as ChannelName;
    const image = `${channel}.png`;
    document.images.push({ key: image, written: image, relative: image, embedded: null });
    const colour = ['baseColor', 'emission', 'specularColor'].includes(channel);
    const own =
      colour && typeof value === 'number' ? ([value, value, value] as [number, number, number]) : value;
    material.channels[channel] = {
      value: own,
      map: createMapUse(image, channel, use),
      source: { from: 'file', detail: 'made' },
    };
  }
  document.materials[0] = material;
  return document;
}

async function back(document: SceneDocument, format: string): Promise<Material> {
  const [extension] = format.split(' ');
  const { files } = writeModel(document, `crane.${extension}`, {
    form: format.endsWith('text') ? 'text' : 'binary',
  });
  return (await readModel(`crane.${extension}`, memorySource('crane', Object.fromEntries(files))))
    .materials[0];
}

/** The number that a channel reads at a stored number, as a receiver works it out. */
function reads(material: Material, channel: ChannelName, stored: number): number | undefined {
  const existing = material.channels[channel];
  const use = existing?.map;
  if (!existing || !use) return undefined;
  const value = typeof existing.value === 'number' ? existing.value : existing.value[0];
  return value * ((use.invert ? 1 - stored : stored) * use.gain + use.offset);
}

describe('what an image becomes is the same after writing and reading', () => {
  const RANGES: [string, Partial<MapUse>, number][] = [
    ['as it is', {}, 1],
    ['inverted', { invert: true }, 1],
    ['weakened', { gain: 0.25 }, 1],
    ['lifted', { gain: 0.5, offset: 0.25 }, 1],
    ['inverted and weakened', { invert: true, gain: 0.5 }, 1],
    ['inverted, weakened and lifted', { invert: true, gain: 0.4, offset: 0.3 }, 1],
    ['times a value', { gain: 0.5, offset: 0.1 }, 0.8],
  ];

  it.each(['usda', 'usdc'].flatMap((format) => RANGES.map((range) => [format, ...range] as const)))(
    '%s, roughness %s',
    async (format, _, use, value) => {
      const document = wired('metalRough', { roughness: { component: 'g', ...use } }, value);
      const material = await back(document, format);
      expect(material.channels.roughness?.map?.component).toBe('g');
      for (const stored of [0, 0.25, 1])
        expect(reads(material, 'roughness', stored)).toBeCloseTo(
          reads(document.materials[0], 'roughness', stored) ?? NaN,
          5,
        );
    },
  );

  it.each(RANGES.filter(([, , value]) => value === 1))('obj, roughness %s', async (_, use) => {
    const document = wired('metalRough', { roughness: { component: 'r', ...use } });
    const material = await back(document, 'obj');
    for (const stored of [0, 0.25, 1])
      expect(reads(material, 'roughness', stored)).toBeCloseTo(
        reads(document.materials[0], 'roughness', stored) ?? NaN,
        5,
      );
  });

  it.each(['usda', 'usdc'])('%s takes glossiness as roughness the other way round', async (format) => {
    const document = wired(
      'specGloss',
      { glossiness: { component: 'a', gain: 0.5, offset: 0.25 }, specularColor: {} },
      1,
    );
    const material = await back(document, format);
    const name = material.channels.glossiness ? 'glossiness' : 'roughness';
    for (const stored of [0, 0.5, 1]) {
      const gloss = 0.5 * stored + 0.25;
      expect(reads(material, name, stored)).toBeCloseTo(name === 'glossiness' ? gloss : 1 - gloss, 5);
    }
  });
});

describe('how an image is laid is the same after writing and reading', () => {
  const transform = {
    offset: [0.25, -0.5] as [number, number],
    scale: [2, 3] as [number, number],
    rotation: Math.PI / 6,
  };

  it.each(['usda', 'usdc'])('%s: offset, scale, turn, wrap and UV set', async (format) => {
    const document = wired('metalRough', {
      baseColor: { transform, wrap: ['clamp', 'mirror'], uvSet: 'second' },
    });
    const [mesh] = document.meshes;
    mesh.uvSets.push({
      ...mesh.uvSets[0],
      name: 'second',
      values: mesh.uvSets[0].values.map((value) => 1 - value),
    });
    const use = (await back(document, format)).channels.baseColor?.map;
    expect(use?.wrap).toEqual(['clamp', 'mirror']);
    expect(use?.uvSet).toBe('second');
    [...transform.offset, ...transform.scale, transform.rotation].forEach((number, i) => {
      expect(
        [...(use?.transform?.offset ?? []), ...(use?.transform?.scale ?? []), use?.transform?.rotation][i],
      ).toBeCloseTo(number, 5);
    });
  });

  it.each(['fbx', 'fbx text', 'obj'])(
    '%s: offset and scale, and edges where both are alike',
    async (format) => {
      const document = wired('metalRough', {
        baseColor: { transform: { ...transform, rotation: 0 }, wrap: ['clamp', 'clamp'] },
      });
      const use = (await back(document, format)).channels.baseColor?.map;
      expect(use?.wrap).toEqual(['clamp', 'clamp']);
      expect(use?.transform?.rotation ?? 0).toBeCloseTo(0, 9);
      [0.25, -0.5, 2, 3].forEach((number, i) =>
        expect([...(use?.transform?.offset ?? []), ...(use?.transform?.scale ?? [])][i]).toBeCloseTo(
          number,
          5,
        ),
      );
    },
  );
});

describe('colours keep all three numbers', () => {
  const colour: [number, number, number] = [0.125, 0.25, 0.5];

  it.each(['fbx', 'fbx text', 'obj', 'usda', 'usdc'])('%s', async (format) => {
    const document = wired('metalRough', {});
    const [material] = document.materials;
    material.channels.baseColor = { value: colour, map: null, source: { from: 'file', detail: '' } };
    material.channels.emission = {
      value: [0.5, 0.25, 0.75],
      map: null,
      source: { from: 'file', detail: '' },
    };
    const { channels } = await back(document, format);
    colour.forEach((component, k) =>
      expect(colourValue(channels.baseColor?.value ?? 0)[k]).toBeCloseTo(component, 5),
    );
    [0.5, 0.25, 0.75].forEach((component, k) =>
      expect(colourValue(channels.emission?.value ?? 0)[k]).toBeCloseTo(component, 5),
    );
  });
});

describe('curved motion', () => {
  /** In-tangent, value and out-tangent per key; flat at first, steep at last. */
  const curved = (node: number, path: Track['path'], keys: number[][]): Track => ({
    node,
    path,
    times: Float64Array.of(0, 1, 3),
    values: Float64Array.from(keys.flat()),
    interpolation: 'cubic',
  });
  const clip = (): SceneDocument => {
    const document = riggedCrane();
    document.clips = [
      {
        name: 'heave',
        start: 0,
        end: 3,
        tracks: [
          curved(5, 'translation', [
            [0, 0, 0, 0.5, 2, 0, 0, 0.3, 0],
            [0, 0.2, 0, 0.8, 2.4, 0.1, 0.4, -0.2, 0],
            [1, 0, 0, 0.2, 1.5, 0.6, 0, 0, 0],
          ]),
          curved(2, 'rotation', [
            [0, 0, 0, 0, 0, 0, 0, 0, 15],
            [0, 0, 30, 5, 0, 40, 0, 0, -10],
            [0, 0, 0, 0, 10, 0, 0, 0, 0],
          ]),
        ],
      },
    ];
    return document;
  };

  it.each(['fbx', 'fbx text', 'usda', 'usdc'])('%s follows it between the keys', async (format) => {
    const [extension] = format.split(' ');
    const document = clip();
    const { files } = writeModel(document, `crane.${extension}`, {
      form: format.endsWith('text') ? 'text' : 'binary',
    });
    const other = await readModel(`crane.${extension}`, memorySource('crane', Object.fromEntries(files)));
    expect(compareRig(document, other).map(({ message }) => message)).toEqual([]);
  });

  it.each(['usda', 'usdc', 'fbx'])('%s holds steps until the next key', async (extension) => {
    const document = clip();
    for (const track of document.clips[0].tracks) {
      const width = track.values.length / track.times.length / 3;
      const keys = Array.from(track.times, (_, i) => [
        ...track.values.subarray((i * 3 + 1) * width, (i * 3 + 2) * width),
      ]);
      Object.assign(track, { interpolation: 'step', values: Float64Array.from(keys.flat()) });
    }
    const { files } = writeModel(document, `crane.${extension}`, {});
    const other = await readModel(`crane.${extension}`, memorySource('crane', Object.fromEntries(files)));
    expect(compareRig(document, other).map(({ message }) => message)).toEqual([]);
  });

  it('keeps its tangents in FBX', async () => {
    const document = clip();
    const { files } = writeModel(document, 'crane.fbx', {});
    const other = await readModel('crane.fbx', memorySource('crane', Object.fromEntries(files)));
    const hook = other.nodes.findIndex(({ name }) => name === 'Hook');
    const track = other.clips[0].tracks.find(
      ({ node, path }) => node === hook && path === 'translation',
    ) as Track;
    for (const time of [0.25, 0.5, 0.9, 1.3, 2, 2.7]) {
      const expected = evaluateTrack(document.clips[0].tracks[0], time);
      evaluateTrack(track, time).forEach((value, k) => expect(value).toBeCloseTo(expected[k], 4));
    }
  });
});

describe('hard edges of FBX', () => {
  it.each(['binary', 'text'] as const)('are kept, and no others, %s', async (form) => {
    const document = riggedCrane();
    // Between the points 2 and 3, which two faces share, and along the border at 4 and 5's end.
    document.meshes[0].hardEdges = Uint32Array.of(3, 2, 6, 7);
    const { files } = writeModel(document, 'crane.fbx', { form });
    const { hardEdges } = (await readModel('crane.fbx', memorySource('crane', Object.fromEntries(files))))
      .meshes[0];
    const pairs = Array.from({ length: (hardEdges?.length ?? 0) / 2 }, (_, i) =>
      [...(hardEdges ?? [])]
        .slice(i * 2, i * 2 + 2)
        .sort()
        .join(' '),
    );
    expect(pairs.sort()).toEqual(['2 3', '6 7']);
  });
});

describe('textures of old FBX', () => {
  const text = (mapping: string, ids: string, materials: string) => `; FBX 6.1.0 project file
FBXHeaderExtension:  {
    FBXVersion: 6100
}
Objects:  {
    Model: "Model::Crate", "Mesh" {
        Vertices: 0,0,0,1,0,0,1,1,0,0,1,0,0,0,1
        PolygonVertexIndex: 0,1,2,-4,0,1,-5
        LayerElementMaterial: 0 {
            MappingInformationType: "ByPolygon"
            ReferenceInformationType: "IndexToDirect"
            Materials: ${materials}
        }
        LayerElementTexture: 0 {
            MappingInformationType: "${mapping}"
            ReferenceInformationType: "IndexToDirect"
            TextureId: ${ids}
        }
    }
    Material: "Material::Plank", "" { ShadingModel: "phong" }
    Material: "Material::Rope", "" { ShadingModel: "phong" }
    Texture: "Texture::planks", "" { RelativeFilename: "planks.png" }
    Texture: "Texture::rope", "" { RelativeFilename: "rope.png" }
}
Connections:  {
    Connect: "OO", "Model::Crate", "Model::Scene"
    Connect: "OO", "Material::Plank", "Model::Crate"
    Connect: "OO", "Material::Rope", "Model::Crate"
    Connect: "OO", "Texture::planks", "Model::Crate"
    Connect: "OO", "Texture::rope", "Model::Crate"
}
`;
  const maps = (...given: Parameters<typeof text>) =>
    readFbx(encode(text(...given)), 'old.fbx').materials.map(
      ({ channels }) => channels.baseColor?.map?.image ?? null,
    );

  it.each<[string, Parameters<typeof text>, (string | null)[]]>([
    ['one for all, on every material in use', ['AllSame', '1', '0,1'], ['rope.png', 'rope.png']],
    ['one for all, on the one material in use', ['AllSame', '0', '1,1'], [null, 'planks.png']],
    ['one a face', ['ByPolygon', '1,0', '0,1'], ['rope.png', 'planks.png']],
    ['none for a face', ['ByPolygon', '-1,0', '0,1'], [null, 'planks.png']],
    ['none for all', ['AllSame', '-1', '0,1'], [null, null]],
    ['none at all', ['NoMappingInformation', '0', '0,1'], [null, null]],
  ])('%s', (_, given, expected) => {
    expect(maps(...given)).toEqual(expected);
  });
});

describe('takes of USD', () => {
  it('go straight between samples, and hold before and after them', async () => {
    const usda = encode(`#usda 1.0
(
    defaultPrim = "Quay"
    metersPerUnit = 1
    upAxis = "Y"
    timeCodesPerSecond = 24
)
def Xform "Quay"
{
    double3 xformOp:translate.timeSamples = { 0: (0, 0, 0), 48: (4, 8, 2) }
    float xformOp:rotateY.timeSamples = { 0: 0, 24: 90 }
    double3 xformOp:translate:pivot = (1, 0, 0)
    uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:translate:pivot", "xformOp:rotateY", "!invert!xformOp:translate:pivot"]
    def Mesh "Slab"
    {
        point3f[] points = [(0,0,0), (1,0,0), (1,0,1)]
        int[] faceVertexCounts = [3]
        int[] faceVertexIndices = [0, 1, 2]
    }
}
`);
    const { clips } = await readModel('quay.usda', memorySource('quay', { 'quay.usda': usda }));
    const [{ tracks }] = clips;
    const entryAt = (path: Track['path'], time: number) =>
      evaluateTrack(tracks.find((track) => track.path === path) as Track, time);
    entryAt('translation', 0.5).forEach((value, k) => expect(value).toBeCloseTo([1, 2, 0.5][k], 6));
    entryAt('translation', 2).forEach((value, k) => expect(value).toBeCloseTo([4, 8, 2][k], 6));
    expect(entryAt('rotation', 0.5)[1]).toBeCloseTo(45, 5);
    expect(entryAt('rotation', 1.5)[1]).toBeCloseTo(90, 5);
  });
});
