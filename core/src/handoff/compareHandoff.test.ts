import type { Document } from '@gltf-transform/core';
import { KHRMaterialsIOR, KHRTextureTransform } from '@gltf-transform/extensions';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { memorySource } from '../parcel/fileSource.ts';
import {
  type Files,
  found,
  inGlb,
  inImage,
  inSheet,
  inText,
  makePackages,
  material,
} from '../test/quayPackages.ts';
import { comparePackages } from './compareHandoff.ts';
import type { Sheet } from './write/sheet.ts';

beforeAll(makePackages);

describe('packages that nobody changed, or changed in form alone, are the same', () => {
  it.each(['web-gltf', 'compositor-usd', 'render-specgloss', 'engine-packed', 'modelling'])(
    '%s as it was written',
    async (id) => {
      expect(await found(id, () => {})).toEqual([]);
    },
  );

  it('with PNGs packed anew', async () => {
    const anew = async (files: Files) => {
      for (const [path, bytes] of files)
        if (path.endsWith('.png'))
          files.set(
            path,
            new Uint8Array(
              await sharp(bytes).png({ compressionLevel: 1, adaptiveFiltering: true }).toBuffer(),
            ),
          );
    };
    expect(await found('engine-packed', anew)).toEqual([]);
    expect(await found('compositor-usd', anew)).toEqual([]);
  });

  it('with the GLB written by another library', async () => {
    expect(
      await found(
        'web-gltf',
        inGlb(() => {}),
      ),
    ).toEqual([]);
  });

  it('with other line ends and comments in OBJ and MTL, other blanks in USDA, the sheet saved anew', async () => {
    const crlf = (text: string) => `# saved at the quay\r\n${text.replaceAll('\n', '\r\n')}`;
    expect(
      await found('render-specgloss', (files) =>
        [inText('quay.obj', crlf), inText('quay.mtl', crlf)].forEach((change) => change(files)),
      ),
    ).toEqual([]);
    expect(
      await found(
        'compositor-usd',
        inText('quay.usda', (text) =>
          text.replaceAll('    ', '\t').replace('#usda 1.0', '#usda 1.0\n# saved at the quay'),
        ),
      ),
    ).toEqual([]);
    expect(
      await found(
        'engine-packed',
        inText('handoff.json', (text) => JSON.stringify(JSON.parse(text))),
      ),
    ).toEqual([]);
  });
});

describe('what is wrong in a glTF package is found', () => {
  it.each<[string, (document: Document) => Promise<void> | void, string[]]>([
    [
      'a part is gone',
      (document) =>
        document
          .getRoot()
          .listNodes()
          .find((node) => node.getName() === 'Barrel')
          ?.dispose(),
      ['part.missing Barrel'],
    ],
    [
      'a part is renamed',
      (document) => {
        for (const node of document.getRoot().listNodes())
          if (node.getName() === 'Crate') node.setName('Chest');
      },
      ['part.missing Crate'],
    ],
    [
      'a part is moved',
      (document) =>
        void document
          .getRoot()
          .listNodes()
          .find((node) => node.getName() === 'Crate')
          ?.setTranslation([0, 0.2, 0]),
      ['part.moved Crate'],
    ],
    [
      'two textures are exchanged',
      (document) => {
        const [oak, brass] = [material(document, 'Oak'), material(document, 'Brass')];
        const own = oak.getBaseColorTexture();
        oak.setBaseColorTexture(brass.getBaseColorTexture());
        brass.setBaseColorTexture(own);
      },
      [
        'channel.differs Oak baseColor',
        'channel.differs Brass baseColor',
        'sheet.contradicts Oak baseColor',
        'sheet.contradicts Brass baseColor',
      ],
    ],
    [
      'the normal map is gone',
      (document) => void material(document, 'Oak').setNormalTexture(null),
      ['channel.missing Oak normal', 'sheet.contradicts Oak normal'],
    ],
    [
      'a factor is another',
      (document) => void material(document, 'Brass').setRoughnessFactor(0.5),
      ['channel.differs Brass roughness'],
    ],
    [
      'alpha is declared otherwise',
      (document) => void material(document, 'Oak').setAlphaMode('MASK'),
      ['alpha.mode Oak opacity', 'sheet.contradicts Oak'],
    ],
    [
      'both sides are shown',
      (document) => void material(document, 'Oak').setDoubleSided(true),
      ['sides Oak', 'sheet.contradicts Oak'],
    ],
    [
      'an image is clamped',
      (document) => void material(document, 'Oak').getBaseColorTextureInfo()?.setWrapS(33071),
      ['use.wrap Oak baseColor'],
    ],
    [
      'materials of the parts are exchanged',
      (document) => {
        const [one, two] = document
          .getRoot()
          .listMeshes()
          .map((mesh) => mesh.listPrimitives()[0]);
        const own = one.getMaterial();
        one.setMaterial(two.getMaterial());
        two.setMaterial(own);
      },
      ['shape.materials Crate', 'shape.materials Barrel'],
    ],
    [
      'UVs are upside down',
      (document) => {
        const uv = document.getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('TEXCOORD_0');
        for (let i = 0; uv && i < uv.getCount(); i += 1) {
          const [u, v] = uv.getElement(i, [0, 0]);
          uv.setElement(i, [u, 1 - v]);
        }
      },
      ['shape.uv Crate'],
    ],
    [
      'triangles look the other way',
      (document) => {
        const indices = document.getRoot().listMeshes()[0].listPrimitives()[0].getIndices();
        const array = indices?.getArray();
        for (let i = 0; array && i < array.length; i += 3)
          [array[i], array[i + 1]] = [array[i + 1], array[i]];
      },
      ['shape.winding Crate'],
    ],
    [
      'the normal map is weaker',
      (document) => void material(document, 'Oak').setNormalScale(0.5),
      ['channel.differs Oak normal'],
    ],
    [
      'a tint lies on the base colour',
      (document) => void material(document, 'Oak').setBaseColorFactor([1, 0.9, 0.8, 1]),
      ['channel.differs Oak baseColor'],
    ],
    [
      'metal by a factor',
      (document) => void material(document, 'Brass').setMetallicFactor(0.5),
      ['channel.differs Brass metalness'],
    ],
    [
      'it glows',
      (document) => void material(document, 'Brass').setEmissiveFactor([0.2, 0, 0]),
      ['channel.differs Brass emission'],
    ],
    [
      'another index of refraction',
      (document) =>
        void material(document, 'Oak').setExtension(
          'KHR_materials_ior',
          document.createExtension(KHRMaterialsIOR).createIOR().setIOR(1.9),
        ),
      ['channel.differs Oak ior'],
    ],
    [
      'a texture is laid otherwise',
      (document) => {
        const transform = document.createExtension(KHRTextureTransform).createTransform().setScale([2, 2]);
        material(document, 'Oak').getNormalTextureInfo()?.setExtension('KHR_texture_transform', transform);
      },
      ['use.transform Oak normal'],
    ],
    [
      'the packed image is left out',
      (document) => void material(document, 'Brass').setMetallicRoughnessTexture(null),
      [
        'channel.differs Brass metalness',
        'channel.differs Brass roughness',
        'sheet.contradicts Brass roughness',
        'sheet.contradicts Brass metalness',
      ],
    ],
    [
      'a part is there twice',
      (document) => {
        const [crate] = document.getRoot().listMeshes();
        document
          .getRoot()
          .listScenes()[0]
          .addChild(document.createNode('Crate copy').setMesh(crate).setTranslation([0, 3, 0]));
      },
      ['part.added Crate copy'],
    ],
    [
      'everything is a hundredth',
      (document) => {
        const [scene] = document.getRoot().listScenes();
        const small = document.createNode('Small').setScale([0.01, 0.01, 0.01]);
        for (const child of scene.listChildren()) small.addChild(child);
        scene.addChild(small);
      },
      ['model.unit'],
    ],
    [
      'everything lies on its back',
      (document) => {
        const [scene] = document.getRoot().listScenes();
        const back = document.createNode('Back').setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
        for (const child of scene.listChildren()) back.addChild(child);
        scene.addChild(back);
      },
      ['model.axes'],
    ],
    [
      'a vertex is elsewhere',
      (document) => {
        const places = document.getRoot().listMeshes()[1].listPrimitives()[0].getAttribute('POSITION');
        const [x, y, z] = places?.getElement(0, [0, 0, 0]) ?? [];
        for (let i = 0; places && i < places.getCount(); i += 1) {
          const here = places.getElement(i, [0, 0, 0]);
          if (here[0] === x && here[1] === y && here[2] === z) places.setElement(i, [x + 0.001, y, z]);
        }
      },
      ['shape.points Barrel'],
    ],
    [
      'a face is missing',
      (document) => {
        const primitive = document.getRoot().listMeshes()[0].listPrimitives()[0];
        const indices = primitive.getIndices();
        indices?.setArray((indices.getArray() as Uint16Array<ArrayBuffer>).slice(3));
      },
      ['shape.faces Crate', 'shape.normals Crate', 'shape.materials Crate'],
    ],
    [
      'there are no UVs',
      (document) =>
        void document.getRoot().listMeshes()[1].listPrimitives()[0].setAttribute('TEXCOORD_0', null),
      ['shape.uv Barrel'],
    ],
    [
      'an image has another’s pixels',
      (document) => {
        const [oak, brass] = [
          material(document, 'Oak').getNormalTexture(),
          material(document, 'Brass').getBaseColorTexture(),
        ];
        oak?.setImage(brass?.getImage() ?? new Uint8Array(0));
      },
      ['channel.differs Oak normal'],
    ],
    [
      'a material was renamed',
      (document) => void material(document, 'Oak').setName('Elm'),
      ['shape.materials Crate', 'channel.missing Oak'],
    ],
  ])('%s', async (_, change, codes) => {
    expect(await found('web-gltf', inGlb(change))).toEqual(codes);
  });
});

describe('what is wrong in images and sheets is found, whatever the format', () => {
  it.each<[string, string, (files: Files) => Promise<void> | void, string[]]>([
    [
      'components of a packed image exchanged',
      'engine-packed',
      inImage(/Oak_ORM/, ([r, g, b]) => [r, b, g]),
      ['channel.differs Oak metalness', 'channel.differs Oak roughness'],
    ],
    [
      'green of a normal flipped',
      'engine-packed',
      inImage(/Oak_N\./, ([r, g, b]) => [r, 255 - g, b]),
      ['channel.differs Oak normal'],
    ],
    [
      'an image darker',
      'modelling',
      inImage(/Brass_basecolor/i, (pixel) => pixel.map((code) => Math.round(code * 0.9))),
      ['channel.differs Brass baseColor'],
    ],
    [
      'an image gone',
      'modelling',
      (files) => void files.delete([...files.keys()].find((path) => /Oak_roughness/.test(path)) as string),
      ['file.missing Oak roughness'],
    ],
    [
      'a word of the sheet',
      'engine-packed',
      inText('handoff.json', (text) => text.replace('"component": "g"', '"component": "r"')),
      ['sheet.contradicts Oak roughness'],
    ],
    ...(
      [
        ['the unit it tells', (sheet) => Object.assign(sheet, { metresPerUnit: 0.5 }), ''],
        ['the axis it tells', (sheet) => Object.assign(sheet, { upAxis: 'X' }), ''],
        ['the direction it tells', (sheet) => Object.assign(sheet, { normalY: 'Y-' }), ''],
        ['a model it tells', (sheet) => Object.assign(sheet, { models: ['quay.fbx', 'dock.fbx'] }), ''],
        ['a name it tells', ({ materials }) => Object.assign(materials[0], { name: 'Elm' }), ' Oak'],
        [
          'an alpha it tells',
          ({ materials }) => Object.assign(materials[0].alpha, { mode: 'blend' }),
          ' Oak',
        ],
        ['sides it tells', ({ materials }) => Object.assign(materials[1], { doubleSided: true }), ' Brass'],
        [
          'a copy it tells',
          ({ materials }) => Object.assign(materials[1], { copies: ['Brass_2'] }),
          ' Brass',
        ],
        [
          'a height it tells',
          ({ materials }) => Object.assign(materials[1], { height: { amount: 1, unit: 'm', mid: 0.5 } }),
          ' Brass',
        ],
        [
          'a value it tells',
          ({ materials }) => Object.assign(materials[0].values, { metalness: 0.25 }),
          ' Oak metalness',
        ],
        [
          'a space it tells',
          ({ materials }) => Object.assign(materials[0].maps[0], { space: 'lin_ap1_scene' }),
          ' Oak baseColor',
        ],
        ['an image it does not tell', ({ materials }) => materials[0].maps.pop(), ' Oak normal'],
      ] as [string, (sheet: Sheet) => unknown, string][]
    ).map(([what, change, of]): [string, string, (files: Files) => void, string[]] => [
      what,
      'modelling',
      inSheet(change),
      [`sheet.contradicts${of}`],
    ]),
    ['the model gone', 'modelling', (files) => void files.delete('quay.fbx'), ['file.missing']],
    [
      'the model cut',
      'modelling',
      (files) => void files.set('quay.fbx', (files.get('quay.fbx') as Uint8Array).slice(0, 300)),
      ['file.unreadable'],
    ],
  ])('%s', async (_, id, change, codes) => {
    const all = await found(id, change);
    for (const code of codes) expect(all).toContain(code);
  });
});

describe('numbers of sheets', () => {
  const sheet = (roughness: number, cutoff = 0.5) =>
    ({
      models: [],
      upAxis: 'Y',
      metresPerUnit: 0.01,
      normalY: 'Y+',
      materials: [
        {
          ...{ name: 'Oak', shading: 'metalRough', doubleSided: false, copies: [], maps: [], height: null },
          alpha: { mode: 'mask', cutoff },
          values: { roughness },
        },
      ],
    }) as unknown as Sheet;
  const against = async (other: Sheet) => {
    const files = memorySource('package', {});
    const { differences } = await comparePackages({ files, sheet: sheet(0.4) }, { files, sheet: other });
    return differences.map(({ message }) => message);
  };

  it('may have gone through single floats, and are told otherwise', async () => {
    expect(await against(sheet(Math.fround(0.4), 0.5000001))).toEqual([]);
    expect(await against(sheet(0.40001))).toEqual([
      'Oak: the sheet says "0.40001" of value roughness, not "0.4"',
    ]);
    expect(await against(sheet(0.4, 0.25))).toEqual([
      'Oak: the sheet says "mask 0.25" of alpha, not "mask 0.5"',
    ]);
  });
});
