import type { PolygonMesh } from '@kinkajou/core/scene/document';

/** One input of a surface that reads an image. */
export interface UsdTexture {
  /** The surface's input, such as `diffuseColor`. */
  input: string;
  /** As written into the file, right or wrong. */
  path: string;
  /** `rgb`, `r`, `g`, `b` or `a`. */
  output: 'rgb' | 'r' | 'g' | 'b' | 'a';
  space: string;
  /** Four numbers that the image is multiplied by. */
  scale?: readonly [number, number, number, number];
}

/** A material with a preview surface. */
export interface UsdMaterialSpec {
  name: string;
  textures: UsdTexture[];
  /** Inputs without an image, such as `float inputs:roughness = 0.4`. */
  values?: string[];
}

/** A part and the name of its material. */
export interface UsdPart {
  name: string;
  mesh: PolygonMesh;
  material: string;
}

/** Writes parts with UsdPreviewSurface materials as text: Y up, metres, polygons kept. */
export function writeUsdaFile(
  root: string,
  parts: readonly UsdPart[],
  materials: readonly UsdMaterialSpec[],
): Uint8Array {
  const text = [
    '#usda 1.0',
    '(',
    `    defaultPrim = "${root}"`,
    '    metersPerUnit = 1',
    '    upAxis = "Y"',
    ')',
    '',
    `def Xform "${root}"`,
    '{',
    ...parts.flatMap((part) => meshLines(part, root)),
    '    def Scope "Looks"',
    '    {',
    ...materials.flatMap((material) => materialLines(material, `/${root}/Looks/${material.name}`)),
    '    }',
    '}',
    '',
  ];
  return new TextEncoder().encode(text.join('\n'));
}

function meshLines({ name, mesh, material }: UsdPart, root: string): string[] {
  const [uv, normal] = [mesh.uvSets[0], mesh.normals];
  if (!uv?.index || !normal?.index) throw new Error(`${name} needs indexed UVs and normals`);
  const tuples = (values: ArrayLike<number>, size: number) =>
    Array.from(
      { length: values.length / size },
      (_, i) => `(${Array.from({ length: size }, (_, k) => values[i * size + k].toFixed(6)).join(', ')})`,
    ).join(', ');
  const spread = (layer: { values: ArrayLike<number>; index: ArrayLike<number> }, size: number) =>
    Float64Array.from(
      { length: layer.index.length * size },
      (_, i) => layer.values[layer.index[Math.floor(i / size)] * size + (i % size)],
    );
  return [
    `    def Mesh "${name}" (`,
    '        prepend apiSchemas = ["MaterialBindingAPI"]',
    '    )',
    '    {',
    '        uniform token subdivisionScheme = "none"',
    `        int[] faceVertexCounts = [${mesh.faceCounts.join(', ')}]`,
    `        int[] faceVertexIndices = [${mesh.faceCorners.join(', ')}]`,
    `        point3f[] points = [${tuples(mesh.points, 3)}]`,
    `        normal3f[] normals = [${tuples(spread({ values: normal.values, index: normal.index }, 3), 3)}] (`,
    '            interpolation = "faceVarying"',
    '        )',
    `        texCoord2f[] primvars:st = [${tuples(uv.values, 2)}] (`,
    '            interpolation = "faceVarying"',
    '        )',
    `        int[] primvars:st:indices = [${uv.index.join(', ')}]`,
    `        rel material:binding = </${root}/Looks/${material}>`,
    '    }',
  ];
}

function materialLines({ name, textures, values = [] }: UsdMaterialSpec, path: string): string[] {
  return [
    `        def Material "${name}"`,
    '        {',
    `            token outputs:surface.connect = <${path}/Surface.outputs:surface>`,
    '            def Shader "Surface"',
    '            {',
    '                uniform token info:id = "UsdPreviewSurface"',
    ...values.map((line) => `                ${line}`),
    ...textures.map(
      ({ input, output }) =>
        `                ${typeOf(input)} inputs:${input}.connect = <${path}/${nodeOf(input)}.outputs:${output}>`,
    ),
    '                token outputs:surface',
    '            }',
    '            def Shader "Coordinates"',
    '            {',
    '                uniform token info:id = "UsdPrimvarReader_float2"',
    '                string inputs:varname = "st"',
    '                float2 outputs:result',
    '            }',
    ...textures.flatMap((texture) => textureLines(texture, path)),
    '        }',
  ];
}

function textureLines({ input, path: file, output, space, scale }: UsdTexture, path: string): string[] {
  const vectors = scaleAndBias(scale, input);
  return [
    `            def Shader "${nodeOf(input)}"`,
    '            {',
    '                uniform token info:id = "UsdUVTexture"',
    `                asset inputs:file = @${file}@`,
    `                token inputs:sourceColorSpace = "${space}"`,
    `                float2 inputs:st.connect = <${path}/Coordinates.outputs:result>`,
    '                token inputs:wrapS = "repeat"',
    '                token inputs:wrapT = "repeat"',
    ...vectors.map((line) => `                ${line}`),
    `                float${output === 'rgb' ? '3' : ''} outputs:${output}`,
    '            }',
  ];
}

function scaleAndBias(scale: readonly [number, number, number, number] | undefined, input: string) {
  if (scale) return [`float4 inputs:scale = (${scale.join(', ')})`];
  return input === 'normal'
    ? ['float4 inputs:scale = (2, 2, 2, 1)', 'float4 inputs:bias = (-1, -1, -1, 0)']
    : [];
}

function nodeOf(input: string): string {
  return `Image_${input}`;
}

function typeOf(input: string): string {
  if (input === 'normal') return 'normal3f';
  return input.endsWith('Color') ? 'color3f' : 'float';
}
