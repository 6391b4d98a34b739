import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { initialState } from '../../asset/asset.ts';
import { findDestination } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { handOff } from '../handoff.ts';
import { previewHandoff } from '../previewHandoff.ts';
import { preparationsOf, prepareState } from './prepareState.ts';

const SIDE = 8;
const SQUARE = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n';
const encode = (text: string) => new TextEncoder().encode(text);

async function image(codes: number[]): Promise<Uint8Array> {
  const data = Buffer.alloc(SIDE * SIDE * codes.length, Buffer.from(codes));
  const made = sharp(data, { raw: { width: SIDE, height: SIDE, channels: codes.length as 1 | 3 } });
  return new Uint8Array(
    await made
      .toColourspace(codes.length === 1 ? 'b-w' : 'srgb')
      .png()
      .toBuffer(),
  );
}

async function quay(mtl: string, images: Record<string, Uint8Array>) {
  const names = [...mtl.matchAll(/newmtl (\S+)/g)].map(([, name]) => name);
  const faces = names.map((name) => `usemtl ${name}\nf 1/1 2/2 3/3 4/4\n`).join('');
  const files = {
    'quay.obj': encode(`mtllib quay.mtl\no Quay\n${SQUARE}${faces}`),
    'quay.mtl': encode(mtl),
    ...images,
  };
  const {
    document,
    source,
    images: scanned,
    read,
  } = await openAsset(memorySource('quay', files), 'quay.obj');
  return { document, source, state: initialState(source), images: scanned, read };
}

const to = (id: string) => findDestination(id) as Destination;

describe('what is converted before a handoff', () => {
  // Diffuse and reflectance that no metal/rough surface has both of.
  const odd =
    'newmtl Lacquer\nmap_Kd d.png\nmap_Ks s.png\nmap_Ns g.png\nnewmtl Plain\nKd 0.3 0.2 0.1\nKs 0.5 0.5 0.5\nNs 40\n';

  it('is every material whose channels speak of another shading model, with its residual in plan and receipt', async () => {
    const files = {
      'd.png': await image([200, 60, 60]),
      's.png': await image([60, 60, 200]),
      'g.png': await image([180]),
    };
    const asset = await quay(odd, files);
    const plan = await previewHandoff({ ...asset, destination: to('engine-packed') });
    const line = plan.changes.find((change) => change.startsWith('To metal/rough'));
    expect(line).toMatch(/^To metal\/rough: Lacquer \(mean residual \d+\.\d%, largest residual \d+\.\d%\)$/);
    // An eighth of the reflectance in red is no part of a blue metal: far more than rounding.
    expect(Number(/largest residual ([\d.]+)%/.exec(line ?? '')?.[1])).toBeGreaterThan(5);
    const { receipt } = await handOff({
      ...asset,
      edits: [],
      findings: [],
      destination: to('engine-packed'),
      threads: 1,
    });
    expect(receipt.prepared).toEqual([line]);
  });

  it('leaves what is what the destination wants, and classic highlights', async () => {
    const asset = await quay(
      'newmtl Modern\nPm 1\nPr 0.2\nnewmtl Plain\nKd 0.3 0.2 0.1\nKs 0.5 0.5 0.5\nNs 40\nnewmtl Gold\nKd 0 0 0\nKs 0.96 0.79 0.41\nNs 400\n',
      {},
    );
    expect(preparationsOf(asset.state, to('web-gltf'))).toEqual([
      { recipe: 'metal-rough', materials: ['Gold'] },
    ]);
    expect(preparationsOf(asset.state, to('render-specgloss'))).toEqual([
      { recipe: 'spec-gloss', materials: ['Modern'] },
    ]);
  });

  it('tells how far it is, what each new image was made from, and in a sketch how large it will be', async () => {
    const files = {
      'd.png': await image([200, 60, 60]),
      's.png': await image([60, 60, 200]),
      'g.png': await image([180]),
    };
    const asset = await quay(`${odd}${odd.split('newmtl Plain')[0].replace('Lacquer', 'Varnish')}`, files);
    const before = structuredClone(asset.state);
    const shares: number[] = [];
    const whole = await prepareState(asset, to('web-gltf'), { progress: (share) => shares.push(share) });
    // Of two materials, each is half of the way.
    expect(shares.every((share, i) => share <= 1 && share >= (shares[i - 1] ?? 0))).toBe(true);
    expect([
      Math.max(...shares),
      shares.some((share) => share > 0 && share <= 0.5),
      shares.some((share) => share > 0.5),
    ]).toEqual([1, true, true]);
    const made = whole.images.filter(({ path }) => !(path in files));
    expect(
      made.map(({ path }) => [path.startsWith('made/'), [...(whole.origins.get(path) ?? [])].sort()]),
    ).toEqual(made.map(() => [true, ['d.png', 's.png']]));
    expect(made.length).toBeGreaterThanOrEqual(4);
    for (const { path } of made) expect((await whole.read(path)).length).toBeGreaterThan(0);
    const sketched = await prepareState(asset, to('web-gltf'), { sketch: { maxSize: 2 } });
    const sizes = (prepared: typeof whole) =>
      prepared.images.map(({ path, info }) => [path.replace(/_[0-9a-f]{6}/, ''), info?.width, info?.height]);
    expect(sizes(sketched)).toEqual(sizes(whole));
    // The asset itself stays as it was.
    expect([asset.images.length, asset.state]).toEqual([3, before]);
  });

  it('goes on without an image that is missing, and says so', async () => {
    const files = { 's.png': await image([250, 229, 172]), 'g.png': await image([180]) };
    const { source, state, images, read } = await quay(odd, files);
    const prepared = await prepareState({ source, state, images, read }, to('web-gltf'));
    expect(prepared.done).toHaveLength(1);
    expect(prepared.done[0]).toMatch(/Lacquer \(.*the image of baseColor is missing\)$/);
    const lacquer = prepared.state.materials.find(({ key }) => key === 'Lacquer');
    expect([
      lacquer?.workflow,
      lacquer?.channels.metalness?.map !== undefined,
      lacquer?.channels.specularColor,
    ]).toEqual(['metalRough', true, undefined]);
  });
});

describe('a tint without its image', () => {
  const tinted = 'newmtl Paint\nKd 0.5 0.25 0.125\nKs 0.04 0.04 0.04\nNs 40\nmap_Kd gone.png\n';

  it('goes out as the value that it is, where a destination wants tints in the pixels', async () => {
    const asset = await quay(tinted, {});
    expect(preparationsOf(asset.state, to('render-specgloss'))).toEqual([
      { recipe: 'bake-tint', materials: ['Paint'] },
    ]);
    const { receipt, files } = await handOff({
      ...asset,
      edits: [],
      findings: [],
      destination: to('render-specgloss'),
      choices: { variant: 'obj' },
      threads: 1,
    });
    expect(receipt.prepared).toEqual([]);
    expect(receipt.losses).toContain('Paint: the image of base colour is missing; its value stands alone');
    const mtl = new TextDecoder().decode(files.get('quay.mtl'));
    expect(/^Kd (.+)$/m.exec(mtl)?.[1].split(' ').map(Number)).toEqual([0.5, 0.25, 0.125]);
  });
});

describe('values that classic materials have no word for', () => {
  it('are told where a destination is classic, and only there', async () => {
    const asset = await quay('newmtl Gold\nKd 0.963 0.787 0.408\nPm 1\nPr 0.2\n', {});
    const losses = async (id: string, variant?: string) =>
      (
        await handOff({
          ...asset,
          edits: [],
          findings: [],
          destination: to(id),
          choices: { variant },
          threads: 1,
        })
      ).receipt.losses;
    expect(await losses('garment-figure', 'obj')).toEqual(['Gold: metalness has no place in Garment figure']);
    expect(await losses('modelling')).toEqual([]);
    expect(await losses('render-specgloss')).toEqual([]);
  });
});

describe('what pixels that do not go together are made into', () => {
  // A board with two UV sets, and with colours of points where they are asked for.
  const board = (shine: string, colours = '') => `#usda 1.0
( defaultPrim = "Quay" )
def Xform "Quay"
{
  def Mesh "Board" ( prepend apiSchemas = ["MaterialBindingAPI"] )
  {
    point3f[] points = [(0, 0, 0), (1, 0, 0), (1, 1, 0)]
    int[] faceVertexCounts = [3]
    int[] faceVertexIndices = [0, 1, 2]
    texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1)] ( interpolation = "vertex" )
    texCoord2f[] primvars:st1 = [(0, 0), (0.5, 0), (0.5, 0.5)] ( interpolation = "vertex" )
    ${colours}
    rel material:binding = </Quay/Lacquer>
  }
  def Material "Lacquer"
  {
    token outputs:surface.connect = </Quay/Lacquer/Surface.outputs:surface>
    def Shader "Surface"
    {
      uniform token info:id = "UsdPreviewSurface"
      int inputs:useSpecularWorkflow = 1
      color3f inputs:diffuseColor${colours ? ' = (1, 1, 1)' : '.connect = </Quay/Lacquer/D.outputs:rgb>'}
      ${shine}
    }
    ${['D', 'S']
      .map(
        (name, set) => `def Shader "${name}"
    {
      uniform token info:id = "UsdUVTexture"
      asset inputs:file = @${name.toLowerCase()}.png@
      float2 inputs:st.connect = </Quay/Lacquer/St${name}.outputs:result>
      token inputs:wrapS = "${set ? 'clamp' : 'repeat'}"
      token inputs:wrapT = "repeat"
    }
    def Shader "St${name}"
    {
      uniform token info:id = "UsdPrimvarReader_float2"
      string inputs:varname = "st"
    }`,
      )
      .join('\n    ')}
  }
}
`;
  const SHINE = 'color3f inputs:specularColor.connect = </Quay/Lacquer/S.outputs:rgb>';
  const losses = async (text: string, destination = 'web-gltf') => {
    const files = {
      'quay.usda': encode(text),
      'd.png': await image([0, 0, 0]),
      's.png': await image([188, 188, 188]),
    };
    const opened = await openAsset(memorySource('quay', files), 'quay.usda');
    const state = initialState(opened.source);
    const { read, images, source } = opened;
    return prepareState({ source, state, images, read }, to(destination));
  };

  it('is told of what lies elsewhere, and goes in by its mean', async () => {
    const text = board(SHINE);
    const index = text.indexOf('"st"', text.indexOf('"StS"'));
    const { losses: told, state } = await losses(`${text.slice(0, index)}"st1"${text.slice(index + 4)}`);
    expect(told.map(({ code, channel, detail }) => [code, channel, detail])).toEqual(
      expect.arrayContaining([
        ['made.mean', 'baseColor', 'specularColor'],
        ['made.mean', 'metalness', 'specularColor'],
      ]),
    );
    // Half of the light, by sRGB's curve, of what is black underneath: a metal.
    expect(state.materials[0].channels.metalness).toMatchObject({ value: 1 });
  });

  it('is told of what goes on in another way beyond its edges', async () => {
    const { losses: told } = await losses(board(SHINE));
    expect(told.map(({ code, channel }) => `${code} ${channel}`)).toEqual([
      'made.edges baseColor',
      'made.edges metalness',
    ]);
  });

  it('is told where colours of points would change what metals reflect', async () => {
    const colours =
      'color3f[] primvars:displayColor = [(1, 0, 0), (0, 1, 0), (0, 0, 1)] ( interpolation = "vertex" )';
    const shown = (shine: string) =>
      board(shine, colours)
        .replace('diffuseColor = (1, 1, 1)', 'diffuseColor.connect = </Quay/Lacquer/Paint.outputs:result>')
        .replace(
          'def Shader "StD"',
          'def Shader "Paint"\n    {\n      uniform token info:id = "UsdPrimvarReader_float3"\n      string inputs:varname = "displayColor"\n    }\n    def Shader "StD"',
        );
    const codes = async (shine: string) => (await losses(shown(shine))).losses.map(({ code }) => code);
    expect(await codes('color3f inputs:specularColor = (0.7, 0.7, 0.7)')).toEqual([
      'made.colours',
      'made.colours',
    ]);
    expect(await codes('color3f inputs:specularColor = (0.03, 0.03, 0.03)')).toEqual([]);
    const metal = shown('float inputs:metallic = 1').replace(
      'useSpecularWorkflow = 1',
      'useSpecularWorkflow = 0',
    );
    const { losses: other } = await losses(metal, 'render-specgloss');
    expect(other).toEqual([{ code: 'made.colours', material: 'Lacquer', channel: 'specularColor' }]);
  });
});
