import { encodeImage } from '@kinkajou/core/images/encode';
import sharp from 'sharp';
import { inverted, type PaintedMaps, packPlanes, toPng } from './paint.ts';
import type { UsdMaterialSpec, UsdTexture } from './writeUsdaFile.ts';

/** Side of a fender's maps in pixels. */
export const SIZE = 256;

/** One fender while it is made: its files and material may be bent before they are written. */
export interface Fender {
  /** `berth_07`, the name of its folder, model and set. */
  name: string;
  maps: PaintedMaps;
  normals: Float32Array;
  /** Images by file name beside the model. */
  files: Record<string, Uint8Array>;
  material: UsdMaterialSpec;
  /** Further materials; the lower half of the body takes the second. */
  more: UsdMaterialSpec[];
  /** UV tiles along the body; 1 for none. */
  tiles: number;
}

/** A fault that is built into a fender, and the finding that must name it. */
export interface FenderFault {
  code: string;
  why: string;
  /** What the finding is about where it is not the material; `{name}` stands for the fender's. */
  subject?: string;
  bend(fender: Fender): Promise<void> | void;
}

/** A texture that feeds an input of a preview surface. */
export function texture(
  input: string,
  path: string,
  output: UsdTexture['output'],
  space: string,
): UsdTexture {
  return { input, path, output, space };
}

function textureOf({ material }: Fender, input: string): UsdTexture {
  const found = material.textures.find((other) => other.input === input);
  if (!found) throw new Error(`no texture feeds ${input}`);
  return found;
}

/** Renames a delivered image and the path that names it. */
function rename(fender: Fender, input: string, to: string): void {
  const used = textureOf(fender, input);
  const from = used.path.slice(2);
  fender.files[to] = fender.files[from];
  delete fender.files[from];
  used.path = `./${to}`;
}

async function exr(values: Float32Array): Promise<Uint8Array> {
  return encodeImage({ width: SIZE, height: SIZE, components: 3, data: values }, 'exr', { depth: 32 });
}

const decode = (value: number) => (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4);

/** Replaces the base colour by a float image of the stored codes, decoded so many times. */
async function asFloat(fender: Fender, times: number, space: string): Promise<void> {
  const codes = fender.maps.colour.map((value) => Math.round(Math.min(1, Math.max(0, value)) * 255) / 255);
  let values = codes;
  for (let i = 0; i < times; i += 1) values = values.map(decode);
  delete fender.files[`${fender.name}_basecolor.png`];
  fender.files[`${fender.name}_basecolor.exr`] = await exr(values);
  Object.assign(textureOf(fender, 'diffuseColor'), { path: `./${fender.name}_basecolor.exr`, space });
}

/**
 * One fault per fender, in their order; every finding of links, slots and colour has its own, and those of
 * surface and transparency that can be.
 */
export const FAULTS: readonly FenderFault[] = [
  {
    code: 'link.missing',
    subject: '{name}_basecolor.png',
    why: 'the base colour was not delivered',
    bend: ({ files, name }) => {
      delete files[`${name}_basecolor.png`];
    },
  },
  {
    code: 'link.ambiguous',
    subject: '{name}_basecolor.png',
    why: 'two images of the same name in two folders',
    bend: async (fender) => {
      const file = `${fender.name}_basecolor.png`;
      fender.files[`wet/${file}`] = await toPng(
        fender.maps.colour.map((value) => value * 0.6),
        3,
      );
      fender.files[`dry/${file}`] = fender.files[file];
      delete fender.files[file];
    },
  },
  {
    code: 'link.outside',
    subject: '{name}_basecolor.png',
    why: 'absolute path of the machine it was made on',
    bend: (fender) => {
      textureOf(fender, 'diffuseColor').path =
        `/home/tove/quay/fenders/${fender.name}/${fender.name}_basecolor.png`;
    },
  },
  {
    code: 'link.caseOnly',
    subject: 'Berth_04_BaseColor.PNG',
    why: 'written in another case than the file has',
    bend: (fender) => {
      textureOf(fender, 'diffuseColor').path = './Berth_04_BaseColor.PNG';
    },
  },
  {
    code: 'link.unreadable',
    subject: 'cargo-fenders/{name}/{name}_basecolor.png',
    why: 'a text file that calls itself PNG',
    bend: ({ files, name }) => {
      files[`${name}_basecolor.png`] = new TextEncoder().encode('the image went to the other folder');
    },
  },
  {
    code: 'link.sidecar',
    subject: '{name}',
    why: 'a converted copy of the base colour lies beside it',
    bend: async ({ files, name }) => {
      files[`${name}_basecolor.tif`] = new Uint8Array(
        await sharp(files[`${name}_basecolor.png`]).tiff({ compression: 'lzw' }).toBuffer(),
      );
    },
  },
  {
    code: 'tiles.gap',
    subject: '{name}_basecolor.<UDIM>.png',
    why: 'tile 1002 was not delivered, and faces lie there',
    bend: (fender) => {
      const { files, name } = fender;
      fender.tiles = 3;
      files[`${name}_basecolor.1001.png`] = files[`${name}_basecolor.1003.png`] =
        files[`${name}_basecolor.png`];
      delete files[`${name}_basecolor.png`];
      textureOf(fender, 'diffuseColor').path = `./${name}_basecolor.<UDIM>.png`;
    },
  },
  {
    code: 'map.unused',
    subject: '{name}',
    why: 'a sketch that nothing reads',
    bend: ({ files, name }) => {
      files['sketch.png'] = files[`${name}_basecolor.png`];
    },
  },
  {
    code: 'slot.contradiction',
    why: 'metalness reads the occlusion map',
    bend: async (fender) => {
      fender.files[`${fender.name}_ao.png`] = await toPng(fender.maps.occlusion, 1);
      fender.material.textures.push(texture('metallic', `./${fender.name}_ao.png`, 'r', 'raw'));
      fender.material.values = [];
    },
  },
  {
    code: 'slot.pixels',
    why: 'roughness reads a colour image whose name says nothing',
    bend: async (fender) => {
      rename(fender, 'roughness', `${fender.name}_layer.png`);
      fender.files[`${fender.name}_layer.png`] = await toPng(
        fender.maps.colour.map(
          (value, i) => value * (0.5 + 0.5 * (fender.maps.height[Math.floor(i / 3)] ?? 0)),
        ),
        3,
      );
    },
  },
  {
    code: 'slot.packedWhole',
    why: 'roughness reads red of a packed image, which holds occlusion',
    bend: async (fender) => {
      const { maps, name } = fender;
      rename(fender, 'roughness', `${name}_orm.png`);
      fender.files[`${name}_orm.png`] = await toPng(
        packPlanes(maps.occlusion, maps.roughness, maps.metalness),
        3,
      );
    },
  },
  {
    code: 'slot.bumpAsNormal',
    why: 'grey heights in the normal slot',
    bend: async ({ files, maps, name }) => {
      files[`${name}_normal.png`] = await toPng(packPlanes(maps.height, maps.height, maps.height), 3);
    },
  },
  {
    code: 'slot.normalAsBump',
    why: 'a normal map drives displacement',
    bend: (fender) => {
      const normal = textureOf(fender, 'normal');
      fender.material.textures = fender.material.textures.filter((other) => other !== normal);
      fender.material.textures.push(texture('displacement', normal.path, 'r', 'raw'));
    },
  },
  {
    code: 'slot.glossAsRoughness',
    why: 'glossiness read as roughness',
    bend: async (fender) => {
      rename(fender, 'roughness', `${fender.name}_glossiness.png`);
      fender.files[`${fender.name}_glossiness.png`] = await toPng(inverted(fender.maps.roughness), 1);
    },
  },
  {
    code: 'slot.constant',
    why: 'a metalness map that is black all over',
    bend: async (fender) => {
      fender.files[`${fender.name}_metalness.png`] = await toPng(new Float32Array(SIZE * SIZE), 1);
      fender.material.textures.push(texture('metallic', `./${fender.name}_metalness.png`, 'r', 'raw'));
      fender.material.values = [];
    },
  },
  {
    code: 'slot.candidate',
    why: 'occlusion delivered but not wired',
    bend: async ({ files, maps, name }) => {
      files[`${name}_ao.png`] = await toPng(maps.occlusion, 1);
    },
  },
  {
    code: 'normal.direction',
    why: 'green points down',
    bend: async ({ files, normals, name }) => {
      files[`${name}_normal.png`] = await toPng(
        normals.map((value, i) => (i % 3 === 1 ? 1 - value : value)),
        3,
      );
    },
  },
  {
    code: 'normal.notUnit',
    why: 'vectors shortened to 0.7',
    bend: async ({ files, normals, name }) => {
      files[`${name}_normal.png`] = await toPng(
        normals.map((value) => (value - 0.5) * 0.7 + 0.5),
        3,
      );
    },
  },
  {
    code: 'normal.notUnit',
    why: 'red and green only, blue empty',
    bend: async ({ files, normals, name }) => {
      files[`${name}_normal.png`] = await toPng(
        normals.map((value, i) => (i % 3 === 2 ? 0 : value)),
        3,
      );
    },
  },
  {
    code: 'colour.dataAsColour',
    why: 'roughness tagged sRGB',
    bend: (fender) => {
      textureOf(fender, 'roughness').space = 'sRGB';
    },
  },
  {
    code: 'colour.colourAsData',
    why: 'base colour tagged raw',
    bend: (fender) => {
      textureOf(fender, 'diffuseColor').space = 'raw';
    },
  },
  {
    code: 'colour.encodedTwice',
    why: 'a float image of encoded numbers, tagged linear',
    bend: (fender) => asFloat(fender, 0, 'lin_rec709'),
  },
  {
    code: 'colour.linearAsEncoded',
    why: 'a linear float image tagged sRGB',
    bend: (fender) => asFloat(fender, 1, 'sRGB'),
  },
  {
    code: 'colour.linearAsEncoded',
    why: 'a float image whose curve was undone twice',
    bend: (fender) => asFloat(fender, 2, 'lin_rec709'),
  },
  {
    code: 'colour.albedoRange',
    why: 'base colour darker than coal',
    bend: async ({ files, maps, name }) => {
      files[`${name}_basecolor.png`] = await toPng(
        maps.colour.map((value) => value * 0.09),
        3,
      );
    },
  },
  {
    code: 'colour.mixedTags',
    subject: 'Band',
    why: 'two materials read one base colour with two tags',
    bend: (fender) => {
      const { name, textures, values } = fender.material;
      const other = textures.map((used) =>
        used.input === 'diffuseColor' ? { ...used, space: 'g22_rec709' } : { ...used },
      );
      fender.more.push({ name: 'Band', textures: other, values });
      fender.material = { name, textures, values };
    },
  },
  {
    code: 'surface.tint',
    why: 'a brown factor over the base colour',
    bend: (fender) => {
      textureOf(fender, 'diffuseColor').scale = [0.7, 0.5, 0.4, 1];
    },
  },
  {
    code: 'surface.indexImplausible',
    why: 'an index of 8',
    bend: ({ material }) => {
      material.values = ['float inputs:metallic = 0', 'float inputs:ior = 8'];
    },
  },
  {
    code: 'surface.metalHalf',
    why: 'metalness 0.4 all over',
    bend: ({ material }) => {
      material.values = ['float inputs:metallic = 0.4'];
    },
  },
  {
    code: 'surface.emissionDark',
    why: 'an emission map times 0',
    bend: async (fender) => {
      fender.files[`${fender.name}_emission.png`] = await toPng(
        fender.maps.colour.map((value, i) => (fender.maps.height[Math.floor(i / 3)] > 0.7 ? value : 0)),
        3,
      );
      fender.material.textures.push({
        ...texture('emissiveColor', `./${fender.name}_emission.png`, 'rgb', 'sRGB'),
        scale: [0, 0, 0, 1],
      });
    },
  },
  {
    code: 'alpha.ignored',
    why: 'holes in the alpha of the base colour, which nothing reads',
    bend: async (fender) => withAlpha(fender, holes),
  },
  {
    code: 'alpha.needless',
    why: 'blends with an alpha of 1',
    bend: async (fender) => {
      await withAlpha(fender, () => 1);
      fender.material.textures.push(texture('opacity', `./${fender.name}_basecolor.png`, 'a', 'sRGB'));
    },
  },
  {
    code: 'alpha.maskWouldDo',
    why: 'blends with holes that have hard edges',
    bend: async (fender) => {
      await withAlpha(fender, holes);
      fender.material.textures.push(texture('opacity', `./${fender.name}_basecolor.png`, 'a', 'sRGB'));
    },
  },
  {
    code: 'alpha.oneSided',
    why: 'cut out by a mask, with one side',
    bend: async (fender) => {
      await withAlpha(fender, holes);
      fender.material.textures.push(texture('opacity', `./${fender.name}_basecolor.png`, 'a', 'sRGB'));
      fender.material.values = ['float inputs:metallic = 0', 'float inputs:opacityThreshold = 0.5'];
    },
  },
  {
    code: 'alpha.inverted',
    why: 'transparency read as opacity',
    bend: async (fender) => {
      const ramp = fender.maps.height.map((value) => Math.min(0.9, Math.max(0.1, value)));
      fender.files[`${fender.name}_transparency.png`] = await toPng(ramp, 1);
      fender.material.textures.push(texture('opacity', `./${fender.name}_transparency.png`, 'r', 'raw'));
    },
  },
  {
    code: 'glass.opaque',
    subject: 'Glass',
    why: 'glass that transmits nothing',
    bend: ({ material }) => {
      material.name = 'Glass';
    },
  },
  {
    code: 'glass.metal',
    subject: 'Glass',
    why: 'glass with the metalness 1',
    bend: ({ material }) => {
      Object.assign(material, { name: 'Glass', values: ['float inputs:metallic = 1'] });
    },
  },
  {
    code: 'surface.heightTooStrong',
    why: 'displaced by a third of its height',
    bend: async (fender) => {
      fender.files[`${fender.name}_height.png`] = await toPng(fender.maps.height, 1);
      fender.material.textures.push({
        ...texture('displacement', `./${fender.name}_height.png`, 'r', 'raw'),
        scale: [0.35, 0.35, 0.35, 1],
      });
    },
  },
  {
    code: 'set.ambiguous',
    why: 'white, beside two folders of images that are called alike',
    bend: async (fender) => {
      for (const [file, bytes] of Object.entries(fender.files)) {
        fender.files[`dry/${file}`] = bytes;
        fender.files[`wet/${file}`] = file.includes('normal') ? bytes : await darker(bytes);
        delete fender.files[file];
      }
      fender.material.textures = [];
    },
  },
];

/** The same image as if it were wet. */
async function darker(png: Uint8Array): Promise<Uint8Array> {
  return new Uint8Array(await sharp(png).linear(0.55, 0).png().toBuffer());
}

/** Round holes in rows, some pixels wide at the rim. */
function holes(u: number, v: number): number {
  return Math.hypot(((u * 4) % 1) - 0.5, ((v * 4) % 1) - 0.5) < 0.3 ? 0 : 1;
}

/** Gives the base colour an alpha. */
async function withAlpha(fender: Fender, alpha: (u: number, v: number) => number): Promise<void> {
  const data = new Uint8Array(SIZE * SIZE * 4);
  for (let y = 0, i = 0; y < SIZE; y += 1) {
    for (let x = 0; x < SIZE; x += 1, i += 1) {
      for (let k = 0; k < 3; k += 1)
        data[i * 4 + k] = Math.round(Math.min(1, Math.max(0, fender.maps.colour[i * 3 + k])) * 255);
      data[i * 4 + 3] = Math.round(alpha((x + 0.5) / SIZE, (y + 0.5) / SIZE) * 255);
    }
  }
  fender.files[`${fender.name}_basecolor.png`] = await encodeImage(
    { width: SIZE, height: SIZE, components: 4, data },
    'png',
  );
}
