import { expect, it } from 'vitest';
import type { AssetState } from '../asset/asset.ts';
import { encodePng } from '../images/encode.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { createDocument, createMesh, createNode, type SceneDocument, Y_UP } from '../scene/document.ts';
import { TAKE_ALL } from '../scene/intake.ts';
import { createMapUse, createMaterial, type Material } from '../scene/material.ts';
import { drawThumbnail } from './thumbnail.ts';

const SIZE = { width: 60, height: 40 };
const FILE = { from: 'file', detail: '' } as const;

/** A square metre that stands and looks along +z, where the camera is; drawn in a material. */
async function draw(
  change: (material: Material, document: SceneDocument) => void,
  picture?: Uint8Array,
): Promise<PixelBuffer> {
  const document = createDocument('gltf', 'made');
  document.axes = Y_UP;
  document.metresPerUnit = 1;
  document.meshes.push(
    createMesh('wall', {
      points: new Float64Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]),
      faceCounts: new Uint32Array([4]),
      faceCorners: new Uint32Array([0, 1, 2, 3]),
      uvSets: [
        {
          name: 'uv',
          size: 2,
          domain: 'corner',
          values: Float64Array.of(0, 0, 1, 0, 1, 1, 0, 1),
          index: null,
        },
      ],
    }),
  );
  const material = createMaterial('Wall', 'metalRough');
  material.channels.roughness = { value: 1, map: null, source: FILE };
  material.channels.metalness = { value: 0, map: null, source: FILE };
  document.materials.push(material);
  document.nodes.push(createNode('Wall', 'mesh', -1, { mesh: 0, materials: [0] }));
  change(material, document);
  const images: AssetState['images'] = [
    { key: 'a.png', written: 'a.png', resolved: 'a.png', tiles: null, embedded: null, space: null },
  ] as never;
  const read = async () => picture ?? new Uint8Array();
  return (await drawThumbnail(
    document,
    { materials: [material], images, intake: TAKE_ALL } as AssetState,
    read,
    SIZE,
  )) as PixelBuffer;
}

const at = ({ data, width }: PixelBuffer, x: number, y: number) => [
  ...data.slice((y * width + x) * 4, (y * width + x) * 4 + 4),
];
const middle = (pixels: PixelBuffer) => at(pixels, SIZE.width / 2, SIZE.height / 2);
const colour = (material: Material, value: [number, number, number]) => {
  material.channels.baseColor = { value, map: null, source: FILE };
};

it('the picture holds the model in its middle, and nothing around it', async () => {
  const pixels = await draw((material) => colour(material, [0.8, 0.02, 0.02]));
  const [r, g, b, alpha] = middle(pixels);
  expect(alpha).toBe(255);
  expect(r).toBeGreaterThan(3 * g);
  expect(g).toBe(b);
  for (const [x, y] of [
    [0, 0],
    [59, 0],
    [0, 39],
    [59, 39],
  ])
    expect(at(pixels, x, y)).toEqual([0, 0, 0, 0]);
  // Turned away in perspective, it still fills half of the height, and no more of the width than it is wide.
  const rows = Array.from({ length: SIZE.height }, (_, y) => at(pixels, SIZE.width / 2, y)[3] > 0).filter(
    Boolean,
  ).length;
  expect(rows).toBeGreaterThan(SIZE.height / 2);
});

it('images lie as they do on the model: the first row at the top, the first column on the left', async () => {
  const [red, green, blue, white] = [
    [255, 0, 0],
    [0, 255, 0],
    [0, 0, 255],
    [255, 255, 255],
  ];
  const image = await encodePng({
    width: 2,
    height: 2,
    components: 3,
    data: Uint8Array.from([red, green, blue, white].flat()),
  });
  const pixels = await draw((material) => {
    material.channels.baseColor = { value: [1, 1, 1], map: createMapUse('a.png', 'baseColor'), source: FILE };
  }, image);
  const brightest = (x: number, y: number) =>
    at(pixels, x, y)
      .slice(0, 3)
      .map((value, _, all) => value > Math.max(...all) * 0.8);
  expect([brightest(26, 16), brightest(35, 16), brightest(26, 25), brightest(35, 25)]).toEqual([
    [true, false, false],
    [false, true, false],
    [false, false, true],
    [true, true, true],
  ]);
});

it('what glows adds its light, and what is clear shows what lies behind it', async () => {
  const black = await draw((material) => colour(material, [0, 0, 0]));
  const glowing = await draw((material) => {
    colour(material, [0, 0, 0]);
    material.channels.emission = { value: [0, 0.5, 0], map: null, source: FILE };
  });
  const [dark, lit] = [middle(black), middle(glowing)];
  expect([lit[0], lit[2]]).toEqual([dark[0], dark[2]]);
  // Half of full light is 188 under sRGB's curve; the sheen of the black wall comes on top.
  expect(lit[1]).toBeGreaterThanOrEqual(188);
  expect(lit[1]).toBeLessThan(210);
  const glass = await draw((material) => {
    material.alphaMode = 'blend';
    material.channels.opacity = { value: 0.25, map: null, source: FILE };
  });
  expect(middle(glass)[3]).toBe(64);
});

it('parts that the file hides are left out, unless it hides everything', async () => {
  const lifted = (hidden: boolean[]) =>
    draw((_, { nodes }) => {
      const above = createNode('Sign', 'mesh', -1, { mesh: 0, materials: [0] });
      above.transform = { ...above.transform, translation: [0, 1, 0] };
      nodes.push(above);
      for (const [i, node] of nodes.entries()) node.visible = !hidden[i];
    });
  const seen = async (...hidden: boolean[]) => {
    const pixels = await lifted(hidden);
    return Array.from({ length: SIZE.height }, (_, y) => at(pixels, SIZE.width / 2, y)[3] > 0).filter(Boolean)
      .length;
  };
  const both = await seen(false, false);
  expect(await seen(false, true)).toBeLessThan(both * 0.7);
  expect(await seen(true, true)).toBe(both);
});

it('of nothing there is no picture', async () => {
  expect(
    await drawThumbnail(
      createDocument('gltf', 'made'),
      { materials: [], images: [], intake: TAKE_ALL } as never,
      async () => new Uint8Array(),
      SIZE,
    ),
  ).toBeNull();
});

it('shows colours of points where the material does', async () => {
  const paint = (document: SceneDocument) => {
    const values = Float64Array.of(1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0);
    document.meshes[0].colours = [{ name: 'paint', size: 3, domain: 'point', values, index: null }];
  };
  const drawn = async (colours: Material['colours']) =>
    middle(
      await draw((material, document) => {
        paint(document);
        material.colours = colours;
      }),
    );
  const [red, green, blue] = await drawn(undefined);
  expect(red).toBeGreaterThan(2 * green);
  expect(green).toBe(blue);
  const [one, two] = await drawn('passed');
  expect(one).toBe(two);
  // Points without a material are seen as they are.
  const bare = middle(
    await draw((_, document) => {
      paint(document);
      document.nodes[0].materials = [-1];
    }),
  );
  expect(bare[0]).toBeGreaterThan(2 * bare[1]);
});
