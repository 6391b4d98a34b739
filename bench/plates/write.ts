import sharp from 'sharp';
import type { Plate } from './cells.ts';
import { CLASSIC_EXPONENT, CLEAR_VALUE, CODES, FACTORS, GOLD, type Rgb, transmits } from './truth.ts';

/** What a plate's material says, whatever its format: images by channel, and values. */
interface PlateMaterial {
  images: Partial<Record<PlateChannel, string>>;
  base: Rgb;
  specular: Rgb;
  metalness: number;
  roughness: number;
  glossiness: number;
  opacity: number;
}

type PlateChannel =
  | 'base'
  | 'specular'
  | 'metalness'
  | 'roughness'
  | 'glossiness'
  | 'opacity'
  | 'metalRoughness'
  | 'specularGlossiness';

const SIDE = 16;
const CLASSIC_HIGHLIGHT: Rgb = [0.5, 0.5, 0.5];

/**
 * The model and its images. Everything is text written here and images by sharp, as another program would.
 */
export async function writePlate(
  plate: Plate,
): Promise<{ model: string; files: Record<string, Uint8Array> }> {
  const files: Record<string, Uint8Array> = {};
  const images: PlateMaterial['images'] = {};
  const add = async (channel: PlateChannel, stripes: readonly (readonly number[])[]) => {
    const path = `plate_${NAMES[channel]}.png`;
    files[path] = await striped(stripes);
    images[channel] = path;
  };
  for (const [channel, stripes] of Object.entries(imagesOf(plate)))
    await add(channel as PlateChannel, stripes);
  const material = { images, ...valuesOf(plate) };
  const text = { gltf: gltfText, usd: usdText, obj: objText, fbx: fbxText }[plate.format](plate, material);
  const model = `plate.${{ gltf: 'gltf', usd: 'usda', obj: 'obj', fbx: 'fbx' }[plate.format]}`;
  for (const [path, content] of Object.entries(text))
    files[path] = typeof content === 'string' ? new TextEncoder().encode(content) : content;
  return { model, files };
}

const NAMES: Record<PlateChannel, string> = {
  base: 'basecolor',
  specular: 'specular',
  metalness: 'metalness',
  roughness: 'roughness',
  glossiness: 'glossiness',
  opacity: 'opacity',
  metalRoughness: 'metalrough',
  specularGlossiness: 'specgloss',
};

/** Codes of the four stripes per image. */
function imagesOf(plate: Plate): Partial<Record<PlateChannel, number[][]>> {
  const { format, written, values, clear } = plate;
  const cut =
    clear === 'mask' || (clear === 'blend' && values !== 'value')
      ? [...CODES[clear === 'mask' ? 'mask' : 'blend']].map((code) => [code])
      : null;
  const out: Partial<Record<PlateChannel, number[][]>> = {};
  const pair = (paint: readonly number[], gold: readonly number[]) =>
    [paint, paint, gold, gold].map((codes) => [...codes]);
  if (values !== 'value') {
    const [roughPaint, roughGold] = CODES.roughness;
    const black = [0, 0, 0];
    const split = written === 'specGloss' || written === 'classic';
    out.base = pair(CODES.paint, split ? black : CODES.gold);
    if (written === 'metalRough' || written === 'classicMetal') {
      if (format === 'gltf') out.metalRoughness = pair([0, roughPaint, 0], [0, roughGold, 255]);
      else Object.assign(out, { metalness: pair([0], [255]), roughness: pair([roughPaint], [roughGold]) });
    }
    if (split) out.specular = pair(written === 'classic' ? CODES.highlight : CODES.dielectric, CODES.gold);
    if (written === 'specGloss') {
      if (format === 'gltf') {
        out.specularGlossiness = pair(
          [...CODES.dielectric, 255 - roughPaint],
          [...CODES.gold, 255 - roughGold],
        );
        delete out.specular;
      } else out.glossiness = pair([255 - roughPaint], [255 - roughGold]);
    }
  }
  if (!cut) return out;
  if (format === 'gltf') out.base = (out.base as number[][]).map((codes, i) => [...codes, ...cut[i]]);
  else out.opacity = cut;
  return out;
}

function valuesOf(plate: Plate): Omit<PlateMaterial, 'images'> {
  const { written, values } = plate;
  const plain = values === 'value';
  const factor = values === 'both';
  const split = written === 'specGloss' || written === 'classic';
  return {
    base: baseOf(plain, split, factor),
    specular: specularOf(plain, split),
    metalness: factor ? FACTORS.metalness : 1,
    roughness: roughnessOf(plain, factor),
    glossiness: glossinessOf(plain, factor),
    opacity: opacityOf(plate, plain),
  };
}

function baseOf(plain: boolean, split: boolean, factor: boolean): Rgb {
  if (plain) return split ? [0, 0, 0] : GOLD.base;
  return factor ? FACTORS.base : [1, 1, 1];
}

function specularOf(plain: boolean, split: boolean): Rgb {
  if (plain) return split ? GOLD.base : CLASSIC_HIGHLIGHT;
  return split ? FACTORS.specular : CLASSIC_HIGHLIGHT;
}

function roughnessOf(plain: boolean, factor: boolean): number {
  if (plain) return GOLD.roughness;
  return factor ? FACTORS.roughness : 1;
}

function glossinessOf(plain: boolean, factor: boolean): number {
  if (plain) return 1 - GOLD.roughness;
  return factor ? FACTORS.glossiness : 1;
}

function opacityOf({ clear, format, written }: Plate, plain: boolean): number {
  if (clear === 'glass' && !transmits(format, written)) return CLEAR_VALUE.glass;
  return clear === 'blend' && plain ? CLEAR_VALUE.blend : 1;
}

async function striped(stripes: readonly (readonly number[])[]): Promise<Uint8Array> {
  const channels = stripes[0].length as 1 | 3 | 4;
  const data = Buffer.alloc(SIDE * SIDE * channels);
  for (let i = 0; i < SIDE * SIDE; i += 1)
    Buffer.from(stripes[Math.floor(((i % SIDE) / SIDE) * 4)]).copy(data, i * channels);
  return new Uint8Array(
    await sharp(data, { raw: { width: SIDE, height: SIDE, channels } })
      .toColourspace(channels === 1 ? 'b-w' : 'srgb')
      .png()
      .toBuffer(),
  );
}

type Texts = Record<string, string | Uint8Array>;

const POINTS = [
  [0, 0, 0],
  [1, 0, 0],
  [1, 1, 0],
  [0, 1, 0],
];
const UVS = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];

function objText(
  { written }: Plate,
  { images, base, specular, metalness, roughness, opacity }: PlateMaterial,
): Texts {
  const lines = ['newmtl Plate', `Kd ${base.join(' ')}`];
  const map = (word: string, channel: PlateChannel) =>
    images[channel] && lines.push(`${word} ${images[channel]}`);
  if (written !== 'metalRough') lines.push(`Ks ${specular.join(' ')}`);
  if (written === 'classic' || written === 'classicMetal') lines.push(`Ns ${CLASSIC_EXPONENT}`);
  if (written === 'metalRough') lines.push(`Pm ${metalness}`, `Pr ${roughness}`);
  if (written === 'specGloss' && !images.glossiness) lines.push(`Ns ${2 / GOLD.roughness ** 4 - 2}`);
  if (opacity !== 1) lines.push(`d ${opacity}`);
  map('map_Kd', 'base');
  map('map_Ks', 'specular');
  map('map_Ns', 'glossiness');
  map('map_d', 'opacity');
  if (written === 'metalRough') {
    map('map_Pm', 'metalness');
    map('map_Pr', 'roughness');
  }
  const obj = [
    'mtllib plate.mtl',
    'o Plate',
    ...POINTS.map((point) => `v ${point.join(' ')}`),
    ...UVS.map((uv) => `vt ${uv.join(' ')}`),
  ];
  return {
    'plate.obj': [...obj, 'usemtl Plate', 'f 1/1 2/2 3/3 4/4', ''].join('\n'),
    'plate.mtl': `${lines.join('\n')}\n`,
  };
}

function usdText({ written, clear }: Plate, { images, ...values }: PlateMaterial): Texts {
  const surface: string[] = [];
  const shaders: string[] = [];
  const input = (
    name: string,
    type: string,
    value: string,
    channel: PlateChannel,
    output: string,
    extra = '',
  ) => {
    const image = images[channel];
    if (!image) {
      surface.push(`${type} inputs:${name} = ${value}`);
      return;
    }
    surface.push(`${type} inputs:${name}.connect = </Plate/Looks/Plate/${name}.outputs:${output}>`);
    const space = output === 'rgb' ? 'sRGB' : 'raw';
    shaders.push(`def Shader "${name}"
            {
                uniform token info:id = "UsdUVTexture"
                asset inputs:file = @./${image}@
                token inputs:sourceColorSpace = "${space}"
                float2 inputs:st.connect = </Plate/Looks/Plate/st.outputs:result>
                ${extra}
                ${output === 'rgb' ? 'float3' : 'float'} outputs:${output}
            }`);
  };
  const colour = ([r, g, b]: Rgb) => `(${r}, ${g}, ${b})`;
  const scaled = (factor: number) =>
    factor === 1 ? '' : `float4 inputs:scale = (${factor}, ${factor}, ${factor}, ${factor})`;
  const [r, g, b] = values.base;
  input(
    'diffuseColor',
    'color3f',
    colour(values.base),
    'base',
    'rgb',
    `float4 inputs:scale = (${r}, ${g}, ${b}, 1)`,
  );
  if (written === 'metalRough') {
    input('metallic', 'float', `${values.metalness}`, 'metalness', 'r', scaled(values.metalness));
    input('roughness', 'float', `${values.roughness}`, 'roughness', 'r', scaled(values.roughness));
  } else {
    surface.push('int inputs:useSpecularWorkflow = 1');
    input('specularColor', 'color3f', colour(values.specular), 'specular', 'rgb');
    const gloss = values.glossiness;
    input(
      'roughness',
      'float',
      `${1 - gloss}`,
      'glossiness',
      'r',
      `float4 inputs:scale = (${-gloss}, ${-gloss}, ${-gloss}, 1)\nfloat4 inputs:bias = (1, 1, 1, 0)`,
    );
  }
  if (images.opacity || values.opacity !== 1) input('opacity', 'float', `${values.opacity}`, 'opacity', 'r');
  if (clear === 'mask') surface.push('float inputs:opacityThreshold = 0.5');
  return {
    'plate.usda': `#usda 1.0
(
    defaultPrim = "Plate"
    metersPerUnit = 1
    upAxis = "Y"
)

def Xform "Plate"
{
    def Mesh "Sheet" (
        prepend apiSchemas = ["MaterialBindingAPI"]
    )
    {
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 1, 2, 3]
        point3f[] points = [${POINTS.map((point) => `(${point.join(', ')})`).join(', ')}]
        texCoord2f[] primvars:st = [${UVS.map((uv) => `(${uv.join(', ')})`).join(', ')}] (
            interpolation = "faceVarying"
        )
        uniform token subdivisionScheme = "none"
        rel material:binding = </Plate/Looks/Plate>
    }

    def Scope "Looks"
    {
        def Material "Plate"
        {
            token outputs:surface.connect = </Plate/Looks/Plate/Surface.outputs:surface>

            def Shader "Surface"
            {
                uniform token info:id = "UsdPreviewSurface"
                ${surface.join('\n                ')}
                token outputs:surface
            }

            def Shader "st"
            {
                uniform token info:id = "UsdPrimvarReader_float2"
                string inputs:varname = "st"
                float2 outputs:result
            }

            ${shaders.join('\n\n            ')}
        }
    }
}
`,
  };
}

function gltfText({ written, clear }: Plate, { images, ...values }: PlateMaterial): Texts {
  const names = Object.values(images);
  const texture = (channel: PlateChannel) =>
    images[channel] ? { index: names.indexOf(images[channel]) } : undefined;
  const material: Record<string, unknown> = { name: 'Plate', extensions: {} };
  const extensions = material.extensions as Record<string, unknown>;
  if (written === 'metalRough') {
    material.pbrMetallicRoughness = {
      baseColorFactor: [...values.base, values.opacity],
      baseColorTexture: texture('base'),
      metallicFactor: values.metalness,
      roughnessFactor: values.roughness,
      metallicRoughnessTexture: texture('metalRoughness'),
    };
  } else {
    extensions.KHR_materials_pbrSpecularGlossiness = {
      diffuseFactor: [...values.base, values.opacity],
      diffuseTexture: texture('base'),
      specularFactor: values.specular,
      glossinessFactor: values.glossiness,
      specularGlossinessTexture: texture('specularGlossiness'),
    };
  }
  if (clear === 'mask') Object.assign(material, { alphaMode: 'MASK', alphaCutoff: 0.5 });
  if (clear === 'blend') material.alphaMode = 'BLEND';
  if (clear === 'glass') extensions.KHR_materials_transmission = { transmissionFactor: 1 };
  const floats = [...POINTS.flat(), ...UVS.flatMap(([u, v]) => [u, 1 - v])];
  const bytes = new Uint8Array(floats.length * 4 + 12);
  new Float32Array(bytes.buffer, 0, floats.length).set(floats);
  new Uint16Array(bytes.buffer, floats.length * 4, 6).set([0, 1, 2, 0, 2, 3]);
  const gltf = {
    asset: { version: '2.0' },
    extensionsUsed: Object.keys(extensions),
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0, name: 'Sheet' }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0, TEXCOORD_0: 1 }, indices: 2, material: 0 }] }],
    materials: [material],
    ...(names.length > 0
      ? { textures: names.map((_, source) => ({ source })), images: names.map((uri) => ({ uri })) }
      : {}),
    accessors: [
      { bufferView: 0, componentType: 5126, count: 4, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
      { bufferView: 1, componentType: 5126, count: 4, type: 'VEC2' },
      { bufferView: 2, componentType: 5123, count: 6, type: 'SCALAR' },
    ],
    bufferViews: [
      { buffer: 0, byteOffset: 0, byteLength: 48 },
      { buffer: 0, byteOffset: 48, byteLength: 32 },
      { buffer: 0, byteOffset: 80, byteLength: 12 },
    ],
    buffers: [{ uri: 'plate.bin', byteLength: bytes.length }],
  };
  if (gltf.extensionsUsed.length === 0) Reflect.deleteProperty(gltf, 'extensionsUsed');
  return { 'plate.gltf': JSON.stringify(gltf), 'plate.bin': bytes };
}

/**
 * Property of an FBX material per image: classic ones, or a vendor's block whose names end in telling words.
 */
const CLASSIC_LINKS: Partial<Record<PlateChannel, string>> = {
  base: 'DiffuseColor',
  specular: 'SpecularColor',
  opacity: 'TransparentColor',
};
const BLOCK_LINKS: Partial<Record<PlateChannel, string>> = {
  base: 'Quay|base_color_map',
  specular: 'Quay|specular_color_map',
  metalness: 'Quay|metalness_map',
  roughness: 'Quay|roughness_map',
  glossiness: 'Quay|glossiness_map',
  opacity: 'TransparentColor',
};

function fbxText({ written, clear, format }: Plate, { images, ...values }: PlateMaterial): Texts {
  const classic = written === 'classic' || written === 'classicMetal';
  const links = classic ? CLASSIC_LINKS : BLOCK_LINKS;
  const linked = (Object.keys(links) as PlateChannel[]).filter((channel) => images[channel]);
  const colour = (name: string, [r, g, b]: Rgb) => `P: "${name}", "Color", "", "A",${r},${g},${b}`;
  const number = (name: string, value: number) => `P: "${name}", "Number", "", "A",${value}`;
  const properties = [colour('DiffuseColor', values.base)];
  if (classic)
    properties.push(
      colour('SpecularColor', values.specular),
      number('SpecularFactor', 1),
      number('ShininessExponent', CLASSIC_EXPONENT),
    );
  else {
    properties.push(colour('Quay|base_color', values.base));
    if (written === 'metalRough')
      properties.push(number('Quay|metalness', values.metalness), number('Quay|roughness', values.roughness));
    else
      properties.push(
        colour('Quay|specular_color', values.specular),
        number('Quay|glossiness', values.glossiness),
      );
    if (clear === 'glass' && transmits(format, written)) properties.push(number('Quay|transmission', 1));
  }
  if (values.opacity !== 1)
    properties.push(colour('TransparentColor', [1, 1, 1]), number('TransparencyFactor', 1 - values.opacity));
  const textures = linked.map((channel, i) => [
    `Texture: ${400 + i}, "Texture::${channel}", "" {`,
    `  FileName: "${images[channel]}"`,
    `  RelativeFilename: "${images[channel]}"`,
    '}',
  ]);
  const uvs = UVS.flat().join(',');
  return {
    'plate.fbx': `; FBX 7.4.0 project file
; Made for tests at Harrow Quay
FBXHeaderExtension:  {
  FBXHeaderVersion: 1003
  FBXVersion: 7400
}
GlobalSettings:  {
  Version: 1000
  Properties70:  {
    P: "UpAxis", "int", "Integer", "",1
    P: "UpAxisSign", "int", "Integer", "",1
    P: "FrontAxis", "int", "Integer", "",2
    P: "FrontAxisSign", "int", "Integer", "",1
    P: "CoordAxis", "int", "Integer", "",0
    P: "CoordAxisSign", "int", "Integer", "",1
    P: "UnitScaleFactor", "double", "Number", "",100
  }
}
Objects:  {
  Geometry: 100, "Geometry::Sheet", "Mesh" {
    Vertices: *12 {
      a: ${POINTS.flat().join(',')}
    }
    PolygonVertexIndex: *4 {
      a: 0,1,2,-4
    }
    LayerElementUV: 0 {
      Version: 101
      Name: "map1"
      MappingInformationType: "ByPolygonVertex"
      ReferenceInformationType: "Direct"
      UV: *8 {
        a: ${uvs}
      }
    }
    LayerElementMaterial: 0 {
      Version: 101
      Name: ""
      MappingInformationType: "AllSame"
      ReferenceInformationType: "IndexToDirect"
      Materials: *1 {
        a: 0
      }
    }
    Layer: 0 {
      Version: 100
      LayerElement:  {
        Type: "LayerElementUV"
        TypedIndex: 0
      }
      LayerElement:  {
        Type: "LayerElementMaterial"
        TypedIndex: 0
      }
    }
  }
  Model: 200, "Model::Sheet", "Mesh" {
    Version: 232
  }
  Material: 300, "Material::Plate", "" {
    Version: 102
    ShadingModel: "phong"
    Properties70:  {
      ${properties.join('\n      ')}
    }
  }
  ${textures.flat().join('\n  ')}
}
Connections:  {
  C: "OO",200,0
  C: "OO",100,200
  C: "OO",300,200
  ${linked.map((channel, i) => `C: "OP",${400 + i},300, "${links[channel]}"`).join('\n  ')}
}
`,
  };
}
