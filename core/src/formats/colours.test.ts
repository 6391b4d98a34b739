import { expect, it } from 'vitest';
import type { Edit } from '../asset/asset.ts';
import { compareModels } from '../compare/compareModels.ts';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { replay } from '../edits/log.ts';
import { handOff } from '../handoff/handoff.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { patchOfState } from '../patch.ts';
import { saysColours } from '../scene/colours.ts';
import type { SceneDocument } from '../scene/document.ts';
import { createMapUse, createMaterial, showsColours } from '../scene/material.ts';
import { quadGlb, textureOf } from '../test/quad.ts';
import { gltfIo } from './gltf/io.ts';
import { writeModel } from './writeModel.ts';

const encoded = (text: string) => new TextEncoder().encode(text);

const shader = (name: string, id: string, inputs: string) =>
  `def Shader "${name}" { uniform token info:id = "${id}" ${inputs} }`;

/** Three boards with colours: the first material reads none, the second reads them, the third reads others. */
const STAGE = `#usda 1.0
(
    defaultPrim = "Quay"
    metersPerUnit = 1
    upAxis = "Y"
)
def Xform "Quay"
{
    def Scope "Looks"
    {
${['Bare', 'Painted', 'Tarred']
  .map((name) => {
    const read = { Bare: '', Painted: 'displayColor', Tarred: 'tarColor' }[name];
    const value = read ? '.connect = <../Reader.outputs:result>' : ' = (0.5, 0.5, 0.5)';
    return `def Material "${name}"
      {
        token outputs:surface.connect = <Surface.outputs:surface>
        ${shader('Surface', 'UsdPreviewSurface', `color3f inputs:diffuseColor${value}\ntoken outputs:surface`)}
        ${read ? shader('Reader', 'UsdPrimvarReader_float3', `string inputs:varname = "${read}"\nfloat3 outputs:result`) : ''}
      }`;
  })
  .join('\n')}
    }
${['Bare', 'Painted', 'Tarred']
  .map(
    (name) => `def Mesh "${name}Board" (prepend apiSchemas = ["MaterialBindingAPI"])
    {
        point3f[] points = [(0, 0, 0), (1, 0, 0), (0, 1, 0)]
        int[] faceVertexCounts = [3]
        int[] faceVertexIndices = [0, 1, 2]
        color3f[] primvars:displayColor = [(1, 0, 0)] (interpolation = "constant")
        color3f[] primvars:tarColor = [(0, 0, 1)] (interpolation = "constant")
        rel material:binding = </Quay/Looks/${name}>
    }`,
  )
  .join('\n')}
}
`;

async function opened(files: Record<string, Uint8Array>, model: string) {
  return openAsset(memorySource('quay', files), model);
}

async function handed(files: Record<string, Uint8Array>, model: string, id: string, edits: Edit[] = []) {
  const { document, source, images, read } = await opened(files, model);
  const { state } = replay(source, edits, images);
  const destination = findDestination(id) as Destination;
  return handOff({ document, source, state, edits, findings: [], images, destination, read });
}

it('colours of a stage are seen where its materials read them, and kept where they do not', async () => {
  const { document, source } = await opened({ 'quay.usda': encoded(STAGE) }, 'quay.usda');
  expect(document.materials.map(({ name, colours }) => [name, colours])).toEqual([
    ['Bare', 'passed'],
    ['Painted', undefined],
    ['Tarred', undefined],
  ]);
  expect(document.meshes[2].colours.map(({ name }) => name)).toEqual(['tarColor', 'displayColor']);
  expect(source.coloured).toEqual(['Bare', 'Painted', 'Tarred']);
  const { files, receipt } = await handed({ 'quay.usda': encoded(STAGE) }, 'quay.usda', 'web-gltf');
  expect(receipt.verdict).not.toBe('failed');
  expect(receipt.losses.filter((loss) => /_COLOR_0/.test(loss))).toHaveLength(1);
  expect(receipt.losses.filter((loss) => /one more is left out/.test(loss))).toHaveLength(3);
  const [glb] = [...files].filter(([path]) => path.endsWith('.glb')).map(([, bytes]) => bytes);
  const written = await (await gltfIo()).readBinary(glb);
  const colours = written
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives())
    .map((primitive) => {
      const name = primitive.listSemantics().find((semantic) => /COLOR/.test(semantic)) ?? '';
      return [primitive.getMaterial()?.getName(), name, primitive.getAttribute(name)?.getElement(0, [])];
    });
  expect(colours).toEqual([
    ['Bare', '_COLOR_0', [1, 0, 0, 1]],
    ['Painted', 'COLOR_0', [1, 0, 0, 1]],
    ['Tarred', 'COLOR_0', [0, 0, 1, 1]],
  ]);
  const again = await opened({ 'quay.glb': glb }, 'quay.glb');
  expect(again.document.materials.map(showsColours)).toEqual([false, true, true]);
});

/** A board with colours, whose material says whether they are seen. */
async function board(change: (document: SceneDocument) => void): Promise<SceneDocument> {
  const { document } = await opened({ 'quay.usda': encoded(STAGE) }, 'quay.usda');
  document.materials.splice(1);
  document.nodes = document.nodes.filter(({ name }) => !/Painted|Tarred/.test(name));
  Object.assign(document.materials[0], { ...createMaterial('Bare', 'metalRough'), colours: undefined });
  change(document);
  return document;
}

const put = (document: SceneDocument, value: [number, number, number], image: string | null) => {
  const map = image === null ? null : createMapUse(image, 'baseColor', {});
  const source = { from: 'file' as const, detail: '' };
  document.materials[0].channels.baseColor = { value, map, source };
  if (image) document.images = [{ key: image, written: image, relative: null, embedded: null }];
};

it.each([
  ['white', (document: SceneDocument) => put(document, [1, 1, 1], null), []],
  ['nothing', () => undefined, []],
  ['a tint', (document: SceneDocument) => put(document, [0.5, 1, 1], null), ['usd.colours']],
  [
    'an image',
    (document: SceneDocument) => {
      put(document, [1, 1, 1], 'tide.png');
      document.materials[0].colours = 'shown';
    },
    ['usd.colours'],
  ],
])('a stage says colours over %s, or that it cannot', async (_, change, expected) => {
  const { files, losses } = writeModel(await board(change), 'quay.usda');
  expect(losses.map(({ code }) => code)).toEqual(expected);
  const [[path]] = files;
  const { document } = await opened(Object.fromEntries(files), path);
  expect(showsColours(document.materials[0])).toBe(expected.length === 0);
});

it.each(['fbx', 'obj'] as const)(
  'what is unusual of colours is told of %s, and else nothing',
  async (format) => {
    const told = async (change: (document: SceneDocument) => void) =>
      writeModel(await board(change), `quay.${format}`)
        .losses.map(({ code }) => code)
        .filter((code) => code === 'colours.unsaid');
    expect(await told(() => undefined)).toEqual([]);
    expect(await told((document) => put(document, [1, 1, 1], 'tide.png'))).toEqual([]);
    expect(await told((document) => (document.materials[0].colours = 'passed'))).toEqual(['colours.unsaid']);
    expect(
      await told((document) => {
        put(document, [1, 1, 1], 'tide.png');
        document.materials[0].colours = 'shown';
      }),
    ).toEqual(['colours.unsaid']);
  },
);

it('models differ where one shows its colours and the other does not', async () => {
  const sideOf = (document: SceneDocument) => ({
    document,
    materials: document.materials,
    images: [],
    read: () => Promise.reject(new Error('there are no images')),
  });
  const shown = sideOf(await board(() => undefined));
  const passed = sideOf(await board((document) => (document.materials[0].colours = 'passed')));
  const told = async (a: typeof shown, b: typeof shown) =>
    (await compareModels(a, b, {})).differences.map(({ code, measured }) => [code, measured]);
  expect(await told(shown, shown)).toEqual([]);
  expect(await told(shown, passed)).toEqual([['colours', 'passed over']]);
  expect(await told(passed, shown)).toEqual([['colours', 'shown']]);
});

it.each(['fbx', 'obj'] as const)(
  '%s has colours as they are picked, and they are read as light',
  async (format) => {
    const document = await board(({ meshes }) => {
      const values = Float64Array.of(0.5, 0.25, 1, 0.25, 0.5, 1, 1, 1, 0);
      for (const mesh of meshes)
        mesh.colours = [{ name: 'paint', size: 3, domain: 'point', values, index: null }];
    });
    const { files } = writeModel(document, `quay.${format}`, { form: 'text' });
    const text = new TextDecoder().decode(files.get(`quay.${format}`));
    // By hand: 1.055 * 0.5 ^ (1 / 2.4) - 0.055.
    expect(text).toMatch(
      format === 'fbx'
        ? /a: 0\.7353569\d+,0\.5370987\d+,1,1,0\.5370987\d+,0\.7353569\d+,1,1,1,1,0,1/
        : /^v 0 0 0 0\.7353569\d* 0\.537098\d+ 1$/m,
    );
    const again = await opened(Object.fromEntries(files), `quay.${format}`);
    const [{ values, size }] = again.document.meshes[0].colours;
    expect([values[0], values[1], values[size]]).toEqual(
      [0.5, 0.25, 0.25].map((value) => expect.closeTo(value, 6)),
    );
  },
);

it('masks of FBX keep their numbers in glTF and back', async () => {
  const document = await board((made) => {
    put(made, [1, 1, 1], 'tide.png');
    const values = Float64Array.of(0.214041, 0, 1, 0.5, 0.214041, 0, 1, 0.25, 0, 0, 0, 1);
    for (const mesh of made.meshes)
      mesh.colours = [{ name: 'mask', size: 4, domain: 'point', values, index: null }];
  });
  const fbx = { 'quay.fbx': writeModel(document, 'quay.fbx').files.get('quay.fbx') as Uint8Array };
  const { files, receipt } = await handed(fbx, 'quay.fbx', 'web-gltf');
  expect(receipt.differences.filter(({ exempt }) => exempt === null)).toEqual([]);
  const [glb] = [...files].filter(([path]) => path.endsWith('.glb')).map(([, bytes]) => bytes);
  const [primitive] = (await (await gltfIo()).readBinary(glb)).getRoot().listMeshes()[0].listPrimitives();
  const mask = primitive.getAttribute('_COLOR_0');
  // By the curve of sRGB 0.214041 is a half; alpha has none.
  expect(mask?.getElement(0, [])).toEqual([0.5, 0, 1, 0.5].map((value) => expect.closeTo(value, 5)));
  const { document: again } = await opened({ 'quay.glb': glb }, 'quay.glb');
  expect([...again.meshes[0].colours[0].values.slice(0, 4)]).toEqual(
    [0.214041, 0, 1, 0.5].map((value) => expect.closeTo(value, 5)),
  );
});

/** A square of glTF with colours and, where asked, an image of its base colour. */
async function square(imaged: boolean): Promise<Uint8Array> {
  const glb = await quadGlb('Hull', async (material, gltf) => {
    if (imaged) material.setBaseColorTexture(await textureOf(gltf, 'tide', 1, [90, 120, 30]));
  });
  const gltf = await (await gltfIo()).readBinary(glb);
  const colours = gltf.createAccessor().setType('VEC3').setArray(new Float32Array(12).fill(0.5));
  const [primitive] = gltf.getRoot().listMeshes()[0].listPrimitives();
  primitive.setAttribute('COLOR_0', colours.setBuffer(gltf.getRoot().listBuffers()[0]));
  return (await gltfIo()).writeBinary(gltf);
}

it.each(['modelling', 'garment-figure', 'compositor-usd'])(
  '%s tells what it cannot say of colours over an image',
  async (id) => {
    const { receipt } = await handed({ 'quay.glb': await square(true) }, 'quay.glb', id);
    expect(receipt.verdict).not.toBe('failed');
    expect(
      receipt.losses.filter((loss) => /has no word for whether|cannot multiply the colours/.test(loss)),
    ).toHaveLength(1);
  },
);

it('what a person says of colours counts in what goes out, and is told where a source cannot be changed', async () => {
  const files = { 'quay.glb': await square(false) };
  const passed: Edit = {
    kind: 'setAlpha',
    materials: ['Hull'],
    change: { colours: 'passed' },
    origin: { from: 'hand', detail: '' },
  };
  const semantics = async (edits: Edit[]) => {
    const { files: written } = await handed(files, 'quay.glb', 'web-gltf', edits);
    const [glb] = [...written].filter(([path]) => path.endsWith('.glb')).map(([, bytes]) => bytes);
    const [primitive] = (await (await gltfIo()).readBinary(glb)).getRoot().listMeshes()[0].listPrimitives();
    return primitive.listSemantics().filter((name) => name.includes('COLOR'));
  };
  expect(await semantics([])).toEqual(['COLOR_0']);
  expect(await semantics([passed])).toEqual(['_COLOR_0']);
  const asset = await opened(files, 'quay.glb');
  const missed = (edits: Edit[]) =>
    patchOfState(asset, replay(asset.source, edits, asset.images).state, (path) => path).missed;
  expect(missed([])).toEqual([]);
  expect(missed([passed])).toEqual(['Hull: whether it shows the colours of its parts']);
});

it('colours that are white but for rounding say nothing', () => {
  const of = (value: number) => {
    const values = Float64Array.of(1, 1, value);
    return saysColours({ colours: [{ name: '', size: 3, domain: 'point', values, index: null }] });
  };
  expect([1, 1 - 1e-7, 1 - 1e-3, 0].map(of)).toEqual([false, false, true, true]);
});
