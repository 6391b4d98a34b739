import { describe, expect, it } from 'vitest';
import type { Edit } from '../asset/asset.ts';
import { poseOf } from '../compare/posed.ts';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { writeModel } from '../formats/writeModel.ts';
import { handOff } from '../handoff/handoff.ts';
import { encodePng } from '../images/encode.ts';
import { mendAsset, type OpenAsset, openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { createDocument, createMesh, createNode, type Vec3 } from '../scene/document.ts';
import { TAKE_ALL } from '../scene/intake.ts';
import { joinDocuments } from '../scene/joinDocuments.ts';
import { testMaterial } from '../test/assets.ts';
import { riggedCrane } from '../test/rigged.ts';
import { formatJoined, type JoinedModel, parseJoined, plainModel } from './joinedFile.ts';

const text = (content: string) => new TextEncoder().encode(content);
const plain = (shade: number) =>
  encodePng({ width: 4, height: 4, components: 3, data: new Uint8Array(48).fill(shade) });
const origin = { from: 'hand' as const, detail: '' };

/** A quay of USD, in centimetres with Z up: a square from 0 to 200 wide and 0 to 100 deep, 50 high. */
const QUAY = `#usda 1.0
( upAxis = "Z"
  metersPerUnit = 0.01 )
def Xform "Quay" {
  def Mesh "Slab" ( prepend apiSchemas = ["MaterialBindingAPI"] ) {
    int[] faceVertexCounts = [4]
    int[] faceVertexIndices = [0, 1, 2, 3]
    point3f[] points = [(0, 0, 50), (200, 0, 50), (200, 100, 50), (0, 100, 50)]
    texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] ( interpolation = "vertex" )
    rel material:binding = </Quay/Iron>
  }
  def Material "Iron" {
    token outputs:surface.connect = </Quay/Iron/Surface.outputs:surface>
    def Shader "Surface" {
      uniform token info:id = "UsdPreviewSurface"
      color3f inputs:diffuseColor.connect = </Quay/Iron/Map.outputs:rgb>
      token outputs:surface
    }
    def Shader "Map" {
      uniform token info:id = "UsdUVTexture"
      asset inputs:file = @iron.png@
      token inputs:sourceColorSpace = "sRGB"
      float2 inputs:st.connect = </Quay/Iron/Uv.outputs:result>
      float3 outputs:rgb
    }
    def Shader "Uv" {
      uniform token info:id = "UsdPrimvarReader_float2"
      string inputs:varname = "st"
      float2 outputs:result
    }
  }
}
`;

/**
 * A lamp of OBJ, in metres with Y up: a triangle 1 wide (X), 3 high, 2 deep towards the viewer, and a
 * bracket.
 */
const LAMP = `mtllib lamp.mtl
o Slab
usemtl Iron
v 0 0 0
v 1 0 2
v 0 3 0
vt 0 0
vt 1 0
vt 0 1
f 1/1 2/2 3/3
o Bracket
usemtl Glass
v 0 0 0
v 9 0 0
v 0 9 0
f 4/1 5/2 6/3
`;
const LAMP_MTL = 'newmtl Iron\nmap_Kd maps\\iron.png\nnewmtl Glass\nmap_Kd lost.png\n';

type Given = Partial<Omit<JoinedModel, 'intake'>> & { intake?: object };

async function files(models: Given[]) {
  const list = { joined: 1, models };
  return {
    'quay.usda': text(QUAY),
    'iron.png': await plain(90),
    'joined/lamp/lamp.obj': text(LAMP),
    'joined/lamp/lamp.mtl': text(LAMP_MTL),
    'joined/lamp/maps/iron.png': await plain(200),
    'joined/lamp/found.png': await plain(30),
    'quay.joined': text(JSON.stringify(list)),
  };
}

const open = async (models: Given[]) => openAsset(memorySource('quay', await files(models)), 'quay.joined');
const lamp = { model: 'lamp.obj', folder: 'joined/lamp', name: 'Lamp' };

const boundsOf = ({ source }: OpenAsset, key: string) => {
  const node = source.nodes.find(({ name }) => name === key);
  return (
    node?.bounds &&
    [node.bounds.min, node.bounds.max].map((point) =>
      point.map((component) => Math.round(component * 1e6) / 1e6 || 0),
    )
  );
};

describe('a joined file', () => {
  it('holds its models in the unit and axes of the first, each where it is put', async () => {
    const asset = await open([{ model: 'quay.usda' }, { ...lamp, at: [1, 0.5, -2], turn: 90, scale: 2 }]);
    expect(asset.source).toMatchObject({ format: 'usd', metresPerUnit: 0.01, upAxis: 'Z', name: 'quay' });
    expect(asset.source.nodes.map(({ name, parent }) => [name, parent])).toEqual([
      ['Quay', -1],
      ['Slab', 0],
      ['Lamp', -1],
      ['Slab', 2],
      ['Bracket', 2],
    ]);
    // A quarter turn about the height takes X to -Z and Z to X; in Z-up axes (x, y, z) is (x, -z, y). The
    // lamp's triangle: x 0..1, y 0..3, z 0..2; twice that, turned: x 0..4, y 0..6, z -2..0; moved by (1, 0.5,
    // -2).
    const slab = asset.source.nodes[3].bounds;
    const rounded = [slab?.min, slab?.max].map((point) =>
      point?.map((component) => Math.round(component * 1e6) / 1e6),
    );
    expect(rounded).toEqual([
      [1, 2, 0.5],
      [5, 4, 6.5],
    ]);
  });

  it('keeps names of the first as they were, and tells the others apart', async () => {
    const asset = await open([{ model: 'quay.usda' }, lamp]);
    expect(asset.source.materials.map(({ key, name }) => [key, name])).toEqual([
      ['Iron', 'Iron'],
      ['Lamp_Iron', 'Lamp_Iron'],
      ['Glass', 'Glass'],
    ]);
    const found = asset.source.materials.map(
      ({ channels }) =>
        asset.source.images.find(({ key }) => key === channels.baseColor?.map?.image)?.resolved,
    );
    expect(found).toEqual(['iron.png', 'joined/lamp/maps/iron.png', null]);
    expect(asset.source.images[0].key).toBe(
      (await openAsset(memorySource('quay', await files([])), 'quay.usda')).source.images[0].key,
    );
  });

  it('keeps apart what domes show', async () => {
    const scene = text(
      '#usda 1.0\ndef DomeLight "sky" { asset inputs:texture:file = @sky.exr@ }\ndef Mesh "sail" { point3f[] points = [(0, 0, 0), (1, 0, 0), (0, 1, 0)]\n int[] faceVertexCounts = [3]\n int[] faceVertexIndices = [0, 1, 2] }\n',
    );
    const models = ['a/one.usda', 'b/two.usda'].map(plainModel);
    const source = memorySource('quay', {
      'quay.joined': formatJoined({ models }),
      'a/one.usda': scene,
      'b/two.usda': scene,
    });
    const { lights, images } = await readModel('quay.joined', source);
    expect(lights.map(({ sky }) => images.find(({ key }) => key === sky?.image)?.written)).toEqual([
      'a/sky.exr',
      'b/sky.exr',
    ]);
  });

  it('gives a picture whose key is taken a key of its own, which domes follow', () => {
    const lit = (written: string) => {
      const document = createDocument('usd', 'made');
      document.images.push({ key: 'sky', written, relative: null, embedded: null });
      document.lights.push({
        name: 'sky',
        kind: 'dome',
        colour: [1, 1, 1],
        intensity: 1,
        innerAngle: 0,
        outerAngle: 0,
        size: [0, 0],
        castsShadow: true,
        sky: { image: 'sky', layout: 'latlong' },
      });
      document.nodes.push(createNode('sky', 'light', -1, { light: 0 }));
      return document;
    };
    const { lights, images } = joinDocuments(lit('noon.exr'), [
      { document: lit('dusk.exr'), name: 'Pier', at: [0, 0, 0], turn: 0, scale: 1, intake: TAKE_ALL },
    ]);
    expect(lights.map(({ sky }) => images.find(({ key }) => key === sky?.image)?.written)).toEqual([
      'noon.exr',
      'dusk.exr',
    ]);
  });

  it('tells things of one name apart, however often the name is taken', () => {
    const named = (...names: string[]) => {
      const document = createDocument('usd', 'made');
      for (const name of names) document.nodes.push(createNode(name, 'group', -1));
      return document;
    };
    const joined = { name: 'Pier', at: [0, 0, 0] as Vec3, turn: 0, scale: 1, intake: TAKE_ALL };
    const { nodes } = joinDocuments(named('Pier', 'Pier_2'), [{ ...joined, document: named('Post') }]);
    expect(nodes.map(({ name }) => name)).toEqual(['Pier', 'Pier_2', 'Pier_3', 'Post']);
  });

  it('takes along what was settled before', async () => {
    const edits: Edit[] = [
      { kind: 'linkImages', links: [{ image: 'lost.png', path: 'found.png', reason: '' }], origin },
      { kind: 'setValues', slots: [{ material: 'Glass', channel: 'roughness' }], value: 0.125, origin },
      { kind: 'renameMaterials', names: [{ material: 'Glass', name: 'Lamp glass' }], origin },
      { kind: 'editParts', change: { do: 'drop', parts: ['Slab'] }, origin },
      { kind: 'setIntake', choice: { ...TAKE_ALL, metresPerUnit: 0.1 }, origin },
    ];
    const asset = await open([{ model: 'quay.usda' }, { ...lamp, edits }]);
    expect(asset.source.nodes.filter(({ polygons }) => polygons > 0).map(({ name }) => name)).toEqual([
      'Slab',
      'Bracket',
    ]);
    // Nine tenths of a metre, standing at the origin, as Z-up axes have it.
    expect(boundsOf(asset, 'Bracket')).toEqual([
      [0, 0, 0],
      [0.9, 0, 0.9],
    ]);
    const glass = asset.source.materials.find(({ name }) => name === 'Lamp glass');
    expect(glass?.channels.roughness?.value).toBe(0.125);
    expect(
      asset.source.images.find(({ key }) => key === glass?.channels.baseColor?.map?.image)?.resolved,
    ).toBe('joined/lamp/found.png');
  });

  it('carries embedded images of a settled model, with what was said of its slots', async () => {
    const pixels = await plain(77);
    const document = {
      ...createDocument('fbx', ''),
      nodes: [createNode('Pane', 'mesh', -1, { mesh: 0, materials: [0] })],
      meshes: [
        createMesh('Pane', {
          points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
          faceCounts: Uint32Array.of(3),
          faceCorners: Uint32Array.of(0, 1, 2),
        }),
      ],
      materials: [testMaterial('Glass', { baseColor: 'pane.png' })],
      images: [{ key: 'pane.png', written: 'pane.png', relative: null, embedded: pixels }],
    };
    const { files: written } = writeModel(document, 'pane.fbx', {
      targetOf: ({ written: path, embedded }) => ({ path, embed: embedded }),
    });
    const edits: Edit[] = [
      { kind: 'setValues', slots: [{ material: 'Glass', channel: 'roughness' }], value: 0.375, origin },
    ];
    for (const said of [edits, []]) {
      const list = {
        joined: 1,
        models: [{ model: 'quay.usda' }, { model: 'pane.fbx', folder: 'in', edits: said }],
      };
      const source = memorySource('quay', {
        'quay.usda': text(QUAY),
        'iron.png': await plain(90),
        'in/pane.fbx': written.get('pane.fbx') as Uint8Array,
        'quay.joined': text(JSON.stringify(list)),
      });
      const read = await readModel('quay.joined', source);
      const glass = read.materials.find(({ name }) => name === 'Glass');
      const image = read.images.find(({ key }) => key === glass?.channels.baseColor?.map?.image);
      expect(image?.embedded && [...image.embedded]).toEqual([...pixels]);
      expect(glass?.channels.roughness?.value).toBe(said.length > 0 ? 0.375 : undefined);
    }
  });

  it('reads models of folders piece by piece where the source can', async () => {
    const asked: string[] = [];
    const whole = memorySource('quay', await files([{ model: 'quay.usda' }, lamp]));
    const source = {
      ...whole,
      async *stream(path: string) {
        asked.push(path);
        yield await whole.read(path);
      },
    };
    const { nodes } = await readModel('quay.joined', source);
    expect(nodes.map(({ name }) => name)).toContain('Bracket');
    expect(asked).toEqual(['joined/lamp/lamp.obj']);
  });

  it('leaves paths alone that are whole, and sees the others from its own place', async () => {
    const mtl = ['newmtl Iron', 'map_Kd D:\\quay\\iron.png', 'newmtl Glass', 'map_Kd ../found.png', ''].join(
      '\n',
    );
    const source = memorySource('quay', {
      ...(await files([{ model: 'quay.usda' }, lamp])),
      'joined/lamp/lamp.mtl': text(mtl),
    });
    const { images } = await readModel('quay.joined', source);
    expect(images.map(({ written }) => written)).toEqual([
      'iron.png',
      'D:\\quay\\iron.png',
      'joined/lamp/../found.png',
    ]);
  });

  it('puts models where they are seen, when the first is understood otherwise than its file says', async () => {
    const intake = { metresPerUnit: 1, scale: 0.5, rotation: [0, 90, 0] };
    const asset = await open([{ model: 'quay.usda' }, { ...lamp, at: [10, 0, 0], intake }]);
    const edits: Edit[] = [
      { kind: 'setIntake', choice: { ...TAKE_ALL, ...intake, rotation: [0, 90, 0] }, origin },
    ];
    const { state } = mendAsset(asset.source, asset.images, 'none', { before: edits });
    const { document, source, images, read } = asset;
    const { files: written, receipt } = await handOff({
      document,
      source,
      state,
      edits,
      findings: [],
      images,
      destination: findDestination('web-gltf') as Destination,
      read,
    });
    expect(receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
    const glb = [...written].find(([path]) => path.endsWith('.glb'));
    const whole = await openAsset(memorySource('out', { 'quay.glb': glb?.[1] as Uint8Array }), 'quay.glb');
    const bracket = whole.source.nodes.find(({ name }) => name === 'Bracket')?.bounds;
    expect(bracket?.min.map(Math.round)).toEqual([10, 0, 0]);
    expect(bracket?.max.map(Math.round)).toEqual([19, 9, 0]);
  });

  it.each(['web-gltf', 'compositor-usd', 'modelling', 'render-specgloss'])(
    'goes out as one model for %s, and its receipt holds',
    async (id) => {
      const { document, source, images, read } = await open([
        { model: 'quay.usda' },
        { ...lamp, at: [0, 1, 0], turn: 30 },
        { ...lamp, name: 'Second lamp', scale: 0.5 },
      ]);
      const { edits, state, findings } = mendAsset(source, images, 'none');
      const { receipt } = await handOff({
        document,
        source,
        state,
        edits,
        findings,
        images,
        destination: findDestination(id) as Destination,
        read,
      });
      expect(
        receipt.readBack.checks.filter(({ ok }) => !ok).map(({ check, found }) => `${check}: ${found}`),
      ).toEqual([]);
      expect(receipt.differences.filter(({ exempt }) => exempt === null)).toEqual([]);
    },
  );

  it('of FBX is written anew for a destination that would change the file itself, and tells what it was made of', async () => {
    const post = writeModel(
      await readModel(
        'lamp.obj',
        memorySource('lamp', { 'lamp.obj': text(LAMP), 'lamp.mtl': text(LAMP_MTL) }),
      ),
      'post.fbx',
      {},
    ).files;
    const list = { joined: 1, models: [{ model: 'post.fbx' }, lamp] };
    const source = memorySource('post', {
      ...(await files([])),
      ...Object.fromEntries(post),
      'post.joined': text(JSON.stringify(list)),
    });
    const asset = await openAsset(source, 'post.joined');
    expect(asset.source.format).toBe('fbx');
    const { edits, state, findings } = mendAsset(asset.source, asset.images, 'none');
    const { receipt } = await handOff({
      ...asset,
      state,
      edits,
      findings,
      destination: findDestination('modelling') as Destination,
    });
    expect(receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
    expect(receipt.inputs.map(({ path }) => path)).toEqual(
      expect.arrayContaining(['post.joined', 'post.fbx', 'joined/lamp/lamp.obj']),
    );
  });

  it('keeps skins, shapes and clips of each, under names of their own', async () => {
    const crane = Object.fromEntries(writeModel(riggedCrane(), 'crane.fbx', {}).files);
    const list = {
      joined: 1,
      models: [{ model: 'crane.fbx' }, { model: 'crane.fbx', name: 'Second', at: [5, 0, 0], scale: 2 }],
    };
    const asset = await openAsset(
      memorySource('crane', { ...crane, 'crane.joined': text(JSON.stringify(list)) }),
      'crane.joined',
    );
    const { clips, nodes, skins } = asset.document;
    expect(clips.map(({ name }) => name)).toEqual(['swing', 'lift', 'Second_swing', 'Second_lift']);
    const jibs = nodes.flatMap((node, i) => (node.name === 'Jib' ? [i] : []));
    expect(jibs.map((jib) => skins[nodes[jib].skin].joints.map((joint) => nodes[joint].name))).toEqual([
      ['Root', 'Mid', 'Tip'],
      ['Root', 'Mid', 'Tip'],
    ]);
    // The first crane lifts its hook; the second does the same twice as far, five metres to the side, and the
    // first stands still.
    const [first, second] = ['Crane', 'Crane'].map(
      (name, k) => nodes.flatMap((node, i) => (node.name === name ? [i] : []))[k],
    );
    const lifted = poseOf(asset.document, clips[3], 1).worlds;
    expect(Array.from(lifted[second].slice(12, 15)).map((component) => Number(component.toFixed(4)))).toEqual(
      [7, 1.6, 4],
    );
    expect(Array.from(lifted[first].slice(12, 15)).map((component) => Number(component.toFixed(4)))).toEqual([
      1, 0, 2,
    ]);
    const { edits, state, findings } = mendAsset(asset.source, asset.images, 'none');
    for (const id of ['web-gltf', 'compositor-usd']) {
      const { receipt } = await handOff({
        ...asset,
        state,
        edits,
        findings,
        destination: findDestination(id) as Destination,
      });
      expect(receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
    }
  });

  it.each([
    ['{ "joined": 1, "models": [{ "model": "quay.usda" } }', 'joined.invalid', /JSON is damaged/],
    ['{ "joined": 2, "models": [{ "model": "quay.usda" }] }', 'joined.invalid', /"joined"/],
    ['{ "joined": 1, "models": [] }', 'joined.invalid', /at least 1/],
    ['{ "joined": 1, "models": [{ "model": "quay.usda", "scale": 0 }] }', 'joined.invalid', /scale/],
    [
      '{ "joined": 1, "models": [{ "model": "gone.obj", "folder": "joined/lamp" }] }',
      'joined.missing',
      /"joined\/lamp\/gone.obj"/,
    ],
    ['{ "joined": 1, "models": [{ "model": "quay.joined" }] }', 'joined.invalid', /again/],
    ['{ "joined": 1, "models": [{ "model": "iron.png" }] }', 'model.format', /\.png cannot be read/],
    [
      '{ "joined": 1, "models": [{ "model": "quay.usda", "edits": [{ "kind": "eat" }] }] }',
      'edit.invalid',
      /"eat"/,
    ],
  ])('%s is refused', async (list, code, message) => {
    const source = memorySource('quay', { ...(await files([])), 'quay.joined': text(list) });
    await expect(readModel('quay.joined', source)).rejects.toMatchObject({
      code,
      message: expect.stringMatching(message),
    });
  });

  it('is written as it is read', () => {
    const models: JoinedModel[] = [
      plainModel('quay.usda'),
      {
        ...{ ...lamp, at: [1, 2, 3], turn: 45, scale: 2, intake: { ...TAKE_ALL, up: 'X', scale: 3 } },
        edits: [{ kind: 'dropMaterials', materials: ['Glass'], origin }],
      },
    ];
    expect(parseJoined(formatJoined({ models }), 'a.joined')).toEqual({ models });
    expect(JSON.parse(new TextDecoder().decode(formatJoined({ models: models.slice(0, 1) })))).toEqual({
      joined: 1,
      models: [{ model: 'quay.usda' }],
    });
  });
});
