import { beforeAll, describe, expect, it } from 'vitest';
import { type Files, found, inFbx, inFbxWords, inText, makePackages } from '../test/quayPackages.ts';

beforeAll(makePackages);

describe('what is wrong in a USD package is found', () => {
  it.each<[string, (text: string) => string, string[]]>([
    ['the unit', (text) => text.replace(/metersPerUnit = 1\b/, 'metersPerUnit = 0.01'), ['model.unit']],
    ['the axis', (text) => text.replace('upAxis = "Y"', 'upAxis = "Z"'), ['model.axes']],
    [
      'the colour space of a map',
      (text) => text.replace('"sRGB"', '"raw"'),
      ['channel.differs Oak baseColor', 'sheet.contradicts Oak baseColor'],
    ],
    [
      'the range of a normal',
      (text) => text.replace('(2, 2, 2, 1)', '(2, -2, 2, 1)').replace('(-1, -1, -1, 0)', '(-1, 1, -1, 0)'),
      ['channel.differs Oak normal', 'sheet.contradicts Oak normal'],
    ],
    [
      'the wrap of a map',
      (text) => text.replace('inputs:wrapS = "repeat"', 'inputs:wrapS = "mirror"'),
      ['use.wrap Oak baseColor'],
    ],
    [
      'the component of a map',
      (text) => text.replace(/(inputs:roughness.connect = .*outputs:)r>/, '$1g>'),
      [],
    ],
    [
      'how strong a normal is',
      (text) => text.replace('(2, 2, 2, 1)', '(1, 1, 2, 1)'),
      ['channel.differs Oak normal'],
    ],
    [
      'the range of roughness',
      (text) =>
        text.replace(
          /(def Shader "roughness[\s\S]*?inputs:file[^\n]*\n)/,
          '$1                float4 inputs:scale = (0.5, 0.5, 0.5, 1)\n',
        ),
      ['channel.differs Oak roughness'],
    ],
    [
      'the material of a part',
      (text) => text.replace(/(material:binding = <[^>]*\/)Oak>/, '$1Brass>'),
      ['shape.materials Crate'],
    ],
    [
      'no material of a part',
      (text) => text.replace(/.*material:binding = <[^>]*Oak>\n/, ''),
      ['shape.materials Crate'],
    ],
    [
      'a point',
      (text) => text.replace(/(point3f\[\] points = \[)\([^)]*\)/, '$1(5, 5, 5)'),
      ['shape.points Crate'],
    ],
    ['UVs', (text) => text.replace(/(primvars:st = \[)\([^)]*\)/, '$1(0.5, 0.123)'), ['shape.uv Crate']],
    [
      'the opacity',
      (text) =>
        text.replace(
          /(token inputs:|)(.*info:id = "UsdPreviewSurface"\n)/,
          '$1$2            float inputs:opacity = 0.4\n',
        ),
      ['alpha.mode Oak opacity'],
    ],
    [
      'the two sides',
      (text) => text.replace(/(def Mesh "Crate"[^{]*\{\n)(\s*)/, '$1$2uniform bool doubleSided = 1\n$2'),
      ['sides Oak', 'sheet.contradicts Oak'],
    ],
    [
      'where the normals lie, which nothing says any more',
      (text) => text.replace(/(def Shader "normal[^{]*\{[^}]*?)\n.*inputs:st\.connect.*/, '$1'),
      ['use.uvSet Oak normal'],
    ],
    [
      'the UV set, which no mesh has',
      (text) => text.replaceAll(/(inputs:varname = ")st"/g, '$1map7"'),
      ['use.uvSet Oak normal', 'use.uvSet Oak baseColor'],
    ],
    [
      'faces that are a cage of a smooth surface',
      (text) => text.replace(/.*subdivisionScheme.*\n/, ''),
      ['shape.faces Crate'],
    ],
    [
      'the space of normals, left to their image',
      (text) => text.replace(/(normal\.\w+@\n).*sourceColorSpace.*\n/, '$1'),
      ['sheet.contradicts Oak normal'],
    ],
    [
      'a part out of sight',
      (text) => text.replace(/def Mesh "Barrel"/, 'def Scope "Barrel"'),
      ['part.missing Barrel'],
    ],
    [
      'the image of a slot',
      (text) => text.replace(/@([^@]*)Oak_normal([^@]*)@/i, '@$1Oak_roughness$2@'),
      ['channel.differs Oak normal', 'sheet.contradicts Oak normal'],
    ],
  ])('%s', async (_, change, codes) => {
    const all = await found('compositor-usd', inText('quay.usda', change));
    for (const code of codes) expect(all).toContain(code);
    if (codes.length === 0) expect(all).toEqual([]);
  });
});

describe('what is wrong in an OBJ package is found', () => {
  it.each<[string, string, (text: string) => string, string[]]>([
    ['a vertex', 'quay.obj', (text) => text.replace(/^v .*$/m, 'v 7 7 7'), ['shape.points Crate']],
    ['a face', 'quay.obj', (text) => text.replace(/^f .*\n/m, ''), ['shape.faces Crate']],
    [
      'which material is on what',
      'quay.obj',
      (text) => text.replace('usemtl Oak', 'usemtl Brass'),
      ['shape.materials Crate'],
    ],
    [
      'an image in the wrong slot',
      'quay.mtl',
      (text) => text.replace(/(map_Kd .*)diffuse/, '$1specular'),
      ['channel.differs Oak baseColor'],
    ],
    [
      'an image that is not there',
      'quay.mtl',
      (text) => text.replace(/(map_Ns .*)\.tif/, '$1_gone.tif'),
      ['file.missing Oak glossiness', 'channel.differs Oak roughness'],
    ],
    ['UVs', 'quay.obj', (text) => text.replace(/^vt .*$/m, 'vt 0.9 0.001'), ['shape.uv Crate']],
    [
      'the name of a part',
      'quay.obj',
      (text) => text.replace(/^([og]) Barrel$/m, '$1 Keg'),
      ['part.missing Barrel'],
    ],
    [
      'a tint',
      'quay.mtl',
      (text) => text.replace(/(newmtl Oak[\s\S]*?Kd) [\d. ]+/, '$1 0.5 0.5 0.5'),
      ['channel.differs Oak baseColor'],
    ],
    [
      'how an image is laid',
      'quay.mtl',
      (text) => text.replace('map_Kd ', 'map_Kd -s 2 2 1 '),
      ['use.transform Oak baseColor'],
    ],
    [
      'an image turned negative',
      'quay.mtl',
      (text) => text.replace('map_Kd ', 'map_Kd -mm 1 -1 '),
      ['channel.differs Oak baseColor'],
    ],
    [
      'an image clamped',
      'quay.mtl',
      (text) => text.replace('map_Kd ', 'map_Kd -clamp on '),
      ['use.wrap Oak baseColor'],
    ],
    [
      'an image left out',
      'quay.mtl',
      (text) => text.replace(/^norm .*\n/m, ''),
      ['channel.missing Oak normal'],
    ],
    [
      'a material left out',
      'quay.mtl',
      (text) => text.replace(/newmtl Brass[\s\S]*$/, ''),
      [
        'channel.missing Brass baseColor',
        'channel.missing Brass normal',
        'channel.missing Brass specularColor',
      ],
    ],
    [
      'the opacity',
      'quay.mtl',
      (text) => text.replace(/newmtl Oak\n/, 'newmtl Oak\nd 0.5\n'),
      ['channel.differs Oak opacity', 'alpha.mode Oak opacity'],
    ],
  ])('%s', async (_, path, change, codes) => {
    const codesFound = await found('render-specgloss', inText(path, change));
    expect(codesFound).toEqual(codes.length > 0 ? expect.arrayContaining(codes) : []);
  });
});

describe('what is wrong in an FBX package is found', () => {
  it.each<[string, (files: Files) => Promise<void> | void, string[]]>([
    ['the unit', inFbx('UnitScaleFactor', 2.54), ['model.unit']],
    ['the axis', inFbx('UpAxis', 1), ['model.axes']],
    ['a part is moved', inFbx('Lcl Translation', 50, 0, 0), ['part.moved Barrel']],
    ['a part is turned', inFbx('Lcl Rotation', 0, 30, 0), ['part.moved Barrel']],
    ['a part is larger', inFbx('Lcl Scaling', 2, 2, 2), ['shape.points Barrel']],
    [
      'another colour for who knows classic properties alone',
      inFbx('DiffuseColor', 0.9, 0.1, 0.1),
      ['channel.differs Brass baseColor'],
    ],
    ['half as opaque', inFbx('TransparencyFactor', 0.5), ['channel.differs Brass opacity']],
    ['an image that is not there', inFbxWords('Oak_N.png', 'Oak_Q.png'), ['file.missing Oak normal']],
    [
      'a normal as base colour',
      inFbxWords('NormalMap', 'Elsewhere'.slice(0, 9)),
      ['channel.missing Oak normal'],
    ],
    [
      'a material renamed',
      inFbxWords('Brass\0\x01Material', 'Stone\0\x01Material'),
      ['channel.missing Brass'],
    ],
  ])('%s', async (_, change, codes) => {
    const all = await found('engine-packed', change);
    for (const code of codes) expect(all).toContain(code);
  });
});
