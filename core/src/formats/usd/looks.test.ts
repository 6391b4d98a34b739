import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import type { SceneDocument } from '../../scene/document.ts';
import { bytes, HEAD, PAIR, QUAD, readScene } from '../../test/usdScenes.ts';
import { parseUsda } from './parseUsda.ts';
import { readUsd } from './readUsd.ts';
import { splitLooks } from './splitLooks.ts';

describe('images that layers name', () => {
  const texture = (name: string, file: string) =>
    `def Material "${name}" { token outputs:surface.connect = </Quay/${name}/S.outputs:surface>
      def Shader "S" { uniform token info:id = "UsdPreviewSurface" token outputs:surface
        color3f inputs:diffuseColor.connect = </Quay/${name}/T.outputs:rgb> }
      def Shader "T" { uniform token info:id = "UsdUVTexture" asset inputs:file = @${file}@ float3 outputs:rgb } }`;
  const imagesOf = async (own: string, other: string) => {
    const files = {
      'set/quay.usda': `${HEAD}def Xform "Quay" ( references = @../props/crate.usda@ ) { ${texture('Own', own)} }`,
      'props/crate.usda': `#usda 1.0\n( defaultPrim = "Quay" )\ndef Xform "Quay" { ${texture('Other', other)} }`,
      'set/maps/rust.png': 'one',
      'maps/rust.png': 'another',
    };
    const source = memorySource(
      'quay',
      Object.fromEntries(Object.entries(files).map(([path, text]) => [path, bytes(text)])),
    );
    const { images, materials } = await readUsd(bytes(files['set/quay.usda']), 'set/quay.usda', source);
    const used = materials.map(({ name, channels }) => [name, channels.baseColor?.map?.image]);
    return { images, used: Object.fromEntries(used) };
  };

  it('are one where they are one file, however it is written', async () => {
    const { images, used } = await imagesOf('maps/rust.png', '../set/maps/rust.png');
    expect(images).toMatchObject([{ written: 'maps/rust.png', relative: 'maps/rust.png' }]);
    expect(used).toEqual({ Own: 'maps/rust.png', Other: 'maps/rust.png' });
  });

  it('are two where two folders hold files of one name', async () => {
    const { images, used } = await imagesOf('maps/rust.png', '../maps/rust.png');
    expect(images.map(({ relative }) => relative).sort()).toEqual(['../maps/rust.png', 'maps/rust.png']);
    expect(used).toEqual({ Own: 'maps/rust.png', Other: '../maps/rust.png' });
  });

  it('keep their written path where nobody has them', async () => {
    const { images, used } = await imagesOf('maps/gone.png', 'textures/gone.png');
    expect(images.map(({ relative }) => relative)).toEqual([null, null]);
    expect(used).toEqual({ Own: 'maps/gone.png', Other: 'textures/gone.png' });
  });
});

describe('materials of a mesh', () => {
  const looks = 'def Scope "Looks" { def Material "A" {} def Material "B" {} def Material "C" {} }';
  const subset = (name: string, faces: string, material: string) =>
    `def GeomSubset "${name}" { uniform token elementType = "face" int[] indices = [${faces}] rel material:binding = </Quay/Looks/${material}> }`;
  const names = (document: SceneDocument) => {
    const node = document.nodes.find(({ name }) => name === 'M');
    const slots = document.meshes[0].faceMaterial ?? [0, 0];
    return [...slots].map((slot) => document.materials[node?.materials[slot] ?? -1]?.name ?? null);
  };

  it('are those of its subsets, and its own for the rest', async () => {
    const bound = 'rel material:binding = </Quay/Looks/A>';
    const one = await readScene(
      `def Xform "Quay" { def Mesh "M" { ${PAIR} ${bound} ${subset('s', '1', 'B')} } ${looks} }`,
    );
    expect(names(one)).toEqual(['A', 'B']);
    const all = await readScene(
      `def Xform "Quay" { def Mesh "M" { ${PAIR} ${bound} ${subset('s', '1', 'B')} ${subset('t', '0', 'C')} } ${looks} }`,
    );
    expect(names(all)).toEqual(['C', 'B']);
  });

  it('are not moved by faces that are picked for something else', async () => {
    const picked = 'def GeomSubset "Wet" { uniform token familyName = "pick" int[] indices = [0, 1] }';
    const document = await readScene(
      `def Xform "Quay" { def Mesh "M" { ${PAIR} rel material:binding = </Quay/Looks/A> ${subset('s', '1', 'B')} ${picked} } ${looks} }`,
    );
    expect(names(document)).toEqual(['A', 'B']);
  });

  it('stay with their faces where one before them is left out', async () => {
    const broken = PAIR.replace('[4, 3]', '[3, 4, 3]').replace('[0,1,2,3', '[0,1,99, 0,1,2,3');
    const document = await readScene(
      `def Xform "Quay" { def Mesh "M" { ${broken} ${subset('s', '1', 'B')} ${subset('t', '0, 2', 'C')} } ${looks} }`,
    );
    expect(names(document)).toEqual(['B', 'C']);
  });

  it('stay with their faces where holes are cut', async () => {
    const cut = `${PAIR} int[] holeIndices = [0]`;
    const document = await readScene(
      `def Xform "Quay" { def Mesh "M" { ${cut} ${subset('s', '1', 'B')} ${subset('t', '0', 'C')} } ${looks} }`,
    );
    expect([...document.meshes[0].faceCounts]).toEqual([3]);
    expect(names(document)).toEqual(['B']);
    expect(document.remarks).toEqual([]);
  });

  it('come down from parents, unless a stronger one stands above', async () => {
    const tree = (strength: string) =>
      `def Xform "Quay" { ${looks} def Xform "P" { rel material:binding = </Quay/Looks/A> ${strength} def Mesh "M" { ${PAIR} rel material:binding = </Quay/Looks/B> } } }`;
    expect(names(await readScene(tree('')))).toEqual(['B', 'B']);
    expect(names(await readScene(tree('( bindMaterialAs = "strongerThanDescendants" )')))).toEqual([
      'A',
      'A',
    ]);
    const inherited = `def Xform "Quay" { ${looks} rel material:binding = </Quay/Looks/C> def Mesh "M" { ${PAIR} } }`;
    expect(names(await readScene(inherited))).toEqual(['C', 'C']);
    const overSubsets = tree('( bindMaterialAs = "strongerThanDescendants" )').replace(
      'Looks/B> }',
      `Looks/B> ${subset('s', '1', 'C')} }`,
    );
    expect(names(await readScene(overSubsets))).toEqual(['A', 'A']);
    const preview = `def Xform "Quay" { ${looks} def Mesh "M" { ${PAIR} rel material:binding:preview = </Quay/Looks/B> } }`;
    expect(names(await readScene(preview))).toEqual(['B', 'B']);
  });
});

describe('materials of collections', () => {
  const looks = 'def Scope "Looks" { def Material "A" {} def Material "B" {} }';
  /** What two meshes below a crane wear, and one beside it. */
  const worn = async (words: string, onHook = '', above = '') => {
    const mesh = (name: string, more = '') => `def Mesh "${name}" { ${QUAD} ${more} }`;
    const document = await readScene(
      `def Xform "Quay" { ${looks} ${above}
        def Xform "Crane" { ${words} ${mesh('Hook', onHook)} def Xform "Arm" { ${mesh('Rope')} } }
        ${mesh('Buoy')} }`,
    );
    return ['Hook', 'Rope', 'Buoy']
      .map((name) => document.nodes.find((node) => node.name === name)?.materials[0] ?? -1)
      .map((index) => document.materials[index]?.name ?? '-')
      .join('');
  };
  const bound = (material: string, name = 'wet', strength = '') =>
    `rel material:binding:collection:${name} = [</Quay/Crane.collection:${name}>, </Quay/Looks/${material}>] ${strength}`;
  const held = (words: string, name = 'wet') => `rel collection:${name}:includes = [${words}]`;

  it('are worn by what it holds and what is below that', async () => {
    expect(await worn(`${held('<Hook>')} ${bound('A')}`)).toBe('A--');
    expect(await worn(`${held('</Quay/Crane/Arm>')} ${bound('A')}`)).toBe('-A-');
    // Not the arm itself is a mesh, and nothing below it is told.
    const alone = 'uniform token collection:wet:expansionRule = "explicitOnly"';
    expect(await worn(`${alone} ${held('<Arm>, <Hook>')} ${bound('A')}`)).toBe('A--');
    expect(
      await worn(
        `uniform bool collection:wet:includeRoot = 1 ${bound('A', 'full:wet').replace('collection:full:wet>', 'collection:wet>')}`,
      ),
    ).toBe('AA-');
    const but = 'rel collection:wet:excludes = <Arm/Rope>';
    expect(await worn(`${held('</Quay/Crane>')} ${but} ${bound('A')}`)).toBe('A--');
    // Nobody below the prim that says so is reached.
    expect(await worn(`${held('</Quay>')} ${bound('A')}`)).toBe('AA-');
  });

  it('are those of the first that holds it, before the one of all; of collections in collections as well', async () => {
    const all = 'rel material:binding = </Quay/Looks/B>';
    expect(await worn(`${all} ${held('<Hook>')} ${bound('A')}`)).toBe('AB-');
    expect(
      await worn(`${held('<Hook>')} ${bound('A')} ${held('<Hook>, <Arm>', 'dry')} ${bound('B', 'dry')}`),
    ).toBe('AB-');
    expect(await worn(`${held('<.collection:dry>')} ${held('<Arm>', 'dry')} ${bound('A')}`)).toBe('-A-');
    // In a circle nobody is held.
    expect(await worn(`${held('<.collection:dry>')} ${held('<.collection:wet>', 'dry')} ${bound('A')}`)).toBe(
      '---',
    );
  });

  it('give way to words further down, unless they are stronger', async () => {
    const own = 'rel material:binding = </Quay/Looks/B>';
    expect(await worn(`${held('<Hook>')} ${bound('A')}`, own)).toBe('B--');
    const strong = '( bindMaterialAs = "strongerThanDescendants" )';
    expect(await worn(`${held('<Hook>')} ${bound('A', 'wet', strong)}`, own)).toBe('A--');
    expect(await worn(`${held('<Hook>')} ${bound('A')}`, '', own)).toBe('ABB');
    expect(await worn(`rel material:binding:collection:wet = [</Quay/Looks/A>]`, '', own)).toBe('BBB');
  });
});

describe('looks in a layer of their own', () => {
  it('leave the geometry without bindings, and bind it from above', () => {
    const { layer } = parseUsda(
      bytes(`#usda 1.0
( defaultPrim = "Quay" upAxis = "Z" )
def Xform "Quay" {
  def Mesh "A" { ${QUAD} rel material:binding = </Quay/Looks/M> }
  def Xform "Bare" {}
  def Scope "Looks" { def Material "M" {} }
  def Scope "Things" { def Xform "T" {} }
}`),
    );
    const { root, looks } = splitLooks(layer, 'quay.looks.usda');
    expect(root.metadata).toMatchObject({
      defaultPrim: 'Quay',
      upAxis: 'Z',
      subLayers: ['./quay.looks.usda'],
    });
    expect(looks.metadata).toEqual(layer.metadata);
    const [shape] = root.prims;
    expect(shape.children.map(({ name }) => name)).toEqual(['A', 'Bare', 'Things']);
    expect(shape.children[0].properties.has('material:binding')).toBe(false);
    expect(shape.children[0].properties.has('points')).toBe(true);
    const [look] = looks.prims;
    expect([look.specifier, look.typeName]).toEqual(['over', '']);
    expect(look.children.map(({ name, specifier }) => [name, specifier])).toEqual([
      ['A', 'over'],
      ['Looks', 'def'],
    ]);
    expect(look.children[0].properties.get('material:binding')?.targets).toEqual(['/Quay/Looks/M']);
    // What was given is as it was.
    expect(layer.prims[0].children[0].properties.has('material:binding')).toBe(true);
  });
});
