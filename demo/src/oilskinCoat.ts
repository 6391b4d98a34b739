import type { PolygonMesh, Vec3 } from '@kinkajou/core/scene/document';
import { createNoise, fractal, mix, smoothstep } from './noise.ts';
import { normalsFromHeight, type Painter, paint, toPng } from './paint.ts';
import { sheet } from './ropeNet.ts';
import type { DemoParcel, DemoPart } from './scene.ts';
import { lathe, smoothProfile, tube } from './shapes.ts';
import { brass } from './surfaces.ts';
import { type FbxMaterialSpec, type FbxTexture, writeFbxFile } from './writeFbxFile.ts';

const SIZE = 1024;

/**
 * The oilskin coat of Harrow Quay on its stand, as FBX in centimetres: tinted parts, lacquered buttons,
 * occlusion in the colour.
 */
export async function oilskinCoat(): Promise<DemoParcel> {
  const cloth = paint(SIZE, oilskin(61));
  const ticking = paint(512, lining(62));
  const metal = paint(256, brass(63));
  // The occlusion was multiplied into the colour, and delivered beside it.
  const dark = cloth.colour.map((value, i) => value * cloth.occlusion[Math.floor(i / 3)]);
  const folder = 'oilskin-coat/';
  return {
    id: 'oilskin-coat',
    title: 'Oilskin coat',
    files: {
      [`${folder}coat.fbx`]: writeFbxFile(coatParts(), coatMaterials(), 'Harrow Quay sail loft'),
      [`${folder}maps/coat_oilskin_basecolor.png`]: await toPng(dark, 3),
      [`${folder}maps/coat_oilskin_ao.png`]: await toPng(cloth.occlusion, 1),
      [`${folder}maps/coat_oilskin_normal.png`]: await toPng(normalsFromHeight(cloth, 5), 3),
      [`${folder}maps/coat_lining_basecolor.png`]: await toPng(ticking.colour, 3),
      [`${folder}maps/coat_button_basecolor.png`]: await toPng(metal.colour, 3),
    },
    faults: [
      { code: 'surface.tint', subject: 'Oilskin', why: 'the colour of the swatch multiplies the image' },
      { code: 'surface.tint', subject: 'Lining', why: 'a grey-blue factor over the ticking' },
      { code: 'surface.specularTooStrong', subject: 'Buttons', why: 'specular colour 2.6, as if lacquered' },
      {
        code: 'surface.occlusionBaked',
        subject: 'Oilskin',
        why: 'occlusion multiplied into the base colour',
      },
      { code: 'surface.legacyOnly', subject: 'coat', why: 'classic gloss and no roughness' },
    ],
  };
}

/** Waxed cotton: yellow, worn pale at the folds, creased, dark in the folds by occlusion. */
function oilskin(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const crease = fractal(noise, u, v, 5, 3, 4);
    const fold = 0.5 + 0.5 * Math.sin(u * Math.PI * 2 * 9 + 1.4 * Math.sin(v * 7));
    const fine = fractal(noise, u, v, 90, 90, 2);
    const worn = smoothstep(0.3, 0.7, crease) * 0.3;
    out.r = mix(0.84, 0.9, worn) * (1 + 0.03 * fine);
    out.g = mix(0.6, 0.74, worn) * (1 + 0.03 * fine);
    out.b = mix(0.16, 0.42, worn) * (1 + 0.03 * fine);
    out.metalness = 0;
    out.roughness = 0.45 + 0.25 * worn;
    out.height = 0.5 + 0.22 * fold + 0.18 * crease + 0.03 * fine;
    out.occlusion = 1 - 0.62 * (1 - fold) ** 1.5 - 0.2 * smoothstep(0.1, -0.4, crease);
  };
}

/** Striped ticking. */
function lining(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const stripe = (u * 24) % 1 < 0.32 ? 1 : 0;
    const weave = 1 + 0.05 * Math.sin(u * 900) * Math.sin(v * 900) + 0.06 * fractal(noise, u, v, 6, 6, 4);
    out.r = mix(0.86, 0.26, stripe) * weave;
    out.g = mix(0.82, 0.34, stripe) * weave;
    out.b = mix(0.72, 0.5, stripe) * weave;
  };
}

function coatMaterials(): FbxMaterialSpec[] {
  const texture = (property: string, name: string): FbxTexture => ({
    property,
    fileName: `maps/${name}`,
    relativeFileName: `maps\\${name}`,
  });
  const plain = { textures: [] as FbxTexture[] };
  return [
    {
      name: 'Oilskin',
      diffuse: [0.9, 0.72, 0.3],
      specular: [0.3, 0.3, 0.3],
      exponent: 30,
      textures: [
        texture('DiffuseColor', 'coat_oilskin_basecolor.png'),
        texture('NormalMap', 'coat_oilskin_normal.png'),
        texture('Quay|Cloth|occlusion_map', 'coat_oilskin_ao.png'),
        texture('Quay|Cloth|base_color_map', 'coat_oilskin_basecolor.png'),
      ],
    },
    {
      name: 'Lining',
      diffuse: [0.6, 0.66, 0.75],
      specular: [0.02, 0.02, 0.02],
      exponent: 6,
      textures: [texture('DiffuseColor', 'coat_lining_basecolor.png')],
    },
    {
      name: 'Buttons',
      diffuse: [1, 1, 1],
      specular: [2.6, 2.2, 1.4],
      exponent: 60,
      textures: [texture('DiffuseColor', 'coat_button_basecolor.png')],
    },
    { name: 'Stand wood', diffuse: [0.2, 0.1, 0.05], specular: [0.15, 0.15, 0.15], exponent: 20, ...plain },
  ];
}

const SHOULDER = 138;

/** Half-width and half-depth of the coat at a height, in centimetres. */
function girth(height: number): [number, number] {
  const t = (height - 40) / (SHOULDER - 40);
  const neck = smoothstep(0.86, 1, t);
  return [mix(mix(34, 23, Math.min(1, t * 1.15)), 8, neck), mix(mix(22, 14, t), 8, neck)];
}

/** The body in the round, open in front, with folds that fall from the shoulders. */
function body(name: string, inset: number): PolygonMesh {
  const at = (u: number, v: number): Vec3 => {
    const height = SHOULDER - v * 98;
    const [wide, deep] = girth(height);
    const angle = 0.12 + u * (Math.PI * 2 - 0.24);
    const fold = 1 + 0.05 * v * Math.sin(angle * 11) + 0.02 * v * Math.sin(angle * 23 + 2);
    return [Math.sin(angle) * (wide * fold - inset), height, Math.cos(angle) * (deep * fold - inset)];
  };
  return inset > 0 ? flipped(sheet(name, 96, 48, at, [2, 1])) : sheet(name, 96, 48, at, [2, 1]);
}

function flipped(mesh: PolygonMesh): PolygonMesh {
  const reverse = (list: Uint32Array) => Uint32Array.from(list, (_, i) => list[i - (i % 4) + 3 - (i % 4)]);
  const { normals } = mesh;
  const [uv] = mesh.uvSets;
  return {
    ...mesh,
    faceCorners: reverse(mesh.faceCorners),
    normals: normals && {
      ...normals,
      values: normals.values.map((value) => -value),
      index: normals.index && reverse(normals.index as Uint32Array),
    },
    uvSets: [{ ...uv, index: uv.index && reverse(uv.index as Uint32Array) }],
  };
}

function sleeve(side: 1 | -1): PolygonMesh {
  const name = side > 0 ? 'Left_sleeve' : 'Right_sleeve';
  return sheet(
    name,
    40,
    36,
    (u, v): Vec3 => {
      const radius = mix(11.5, 7.2, v) * (1 + 0.05 * Math.sin(v * 34) * (1 - Math.abs(v - 0.5)));
      const angle = side * u * Math.PI * 2;
      const [x, y] = [11 + 26 * v + 4 * Math.sin(v * 1.6), 125 - 54 * v];
      return [
        side * (x + Math.cos(angle * side) * radius * 0.9),
        y + Math.cos(angle * side) * radius * 0.28,
        Math.sin(angle) * radius * side + 3 * v,
      ];
    },
    [0.5, 0.6],
  );
}

function coatParts(): DemoPart[] {
  const parts: DemoPart[] = [
    { name: 'Coat_body', material: 'Oilskin', mesh: body('Coat_body', 0) },
    { name: 'Coat_lining', material: 'Lining', mesh: body('Coat_lining', 0.9) },
    { name: 'Left_sleeve', material: 'Oilskin', mesh: sleeve(1) },
    { name: 'Right_sleeve', material: 'Oilskin', mesh: sleeve(-1) },
    {
      name: 'Collar',
      material: 'Oilskin',
      mesh: lathe(
        'Collar',
        [
          smoothProfile(
            [
              [9.4, 134],
              [11.5, 137],
              [11.2, 142],
              [9.6, 145.5],
            ],
            5,
          ),
        ],
        { segments: 48, repeatU: 0.6, lengthV: 60 },
      ),
    },
    {
      name: 'Pole',
      material: 'Stand wood',
      mesh: tube(
        'Pole',
        Array.from({ length: 9 }, (_, i): Vec3 => [0, 4 + i * 18.2, 0]),
        2.1,
        { segments: 20 },
      ),
    },
    {
      name: 'Foot',
      material: 'Stand wood',
      mesh: lathe(
        'Foot',
        [
          [
            [0, 0],
            [24, 0],
          ],
          smoothProfile(
            [
              [24, 0],
              [24.5, 2],
              [22, 4.5],
              [8, 7],
              [3, 12],
            ],
            5,
          ),
        ],
        { segments: 56 },
      ),
    },
    {
      name: 'Knob',
      material: 'Stand wood',
      mesh: lathe(
        'Knob',
        [
          smoothProfile(
            [
              [2.1, 148],
              [4.6, 151],
              [5.2, 155],
              [3.4, 159.5],
              [0, 161],
            ],
            6,
          ),
        ],
        { segments: 40 },
      ),
    },
  ];
  for (let i = 0; i < 5; i += 1) {
    const height = 128 - i * 15;
    const [, deep] = girth(height);
    const button = lathe(
      `Button_${i + 1}`,
      [
        [
          [0, 0],
          [1.5, 0],
        ],
        smoothProfile(
          [
            [1.5, 0],
            [1.65, 0.3],
            [1.4, 0.7],
            [0.9, 0.6],
            [0, 0.55],
          ],
          3,
        ),
      ],
      { segments: 28 },
    );
    // The lathe turns about Y; a button faces the front.
    const turned = (values: ArrayLike<number>) =>
      Float64Array.from(values, (_, at) => [values[at], -values[at + 1], values[at - 1]][at % 3]);
    const points = turned(button.points);
    for (let at = 0; at < points.length; at += 3) {
      points[at] += 4.5;
      points[at + 1] += height;
      points[at + 2] += deep * 1.04;
    }
    const normals = button.normals && { ...button.normals, values: turned(button.normals.values) };
    parts.push({ name: `Button_${i + 1}`, material: 'Buttons', mesh: { ...button, points, normals } });
  }
  return parts;
}
