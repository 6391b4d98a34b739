import { expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readUsd } from './readUsd.ts';

/** The material of a stage whose colour is an image, with the remarks on it. */
async function hull(inputs: string, output = 'rgb') {
  const text = `#usda 1.0
def Material "Hull"
{
    token outputs:surface.connect = <Surface.outputs:surface>
    def Shader "Surface"
    {
        uniform token info:id = "UsdPreviewSurface"
        color3f inputs:diffuseColor.connect = <../Image.outputs:${output}>
        token outputs:surface
    }
    def Shader "Image"
    {
        uniform token info:id = "UsdUVTexture"
        asset inputs:file = @tide.png@
        float2 inputs:st.connect = <../Reader.outputs:result>
        ${inputs}
        float3 outputs:rgb
        float outputs:r
    }
    def Shader "Reader"
    {
        uniform token info:id = "UsdPrimvarReader_float2"
        string inputs:varname = "st"
        float2 outputs:result
    }
}
`;
  const bytes = new TextEncoder().encode(text);
  const document = await readUsd(bytes, 'hull.usda', memorySource('quay', { 'hull.usda': bytes }));
  const { value, map } = document.materials[0].channels.baseColor ?? {};
  return {
    value,
    map,
    told: document.remarks.some(({ subject }) => subject === 'biases of colours'),
  };
}

const scaled = (scale: string, bias: string, space = 'raw') =>
  `float4 inputs:scale = (${scale}, 1)\nfloat4 inputs:bias = (${bias}, 0)\ntoken inputs:sourceColorSpace = "${space}"`;

it('scales of colours multiply them, whichever component they are from', async () => {
  expect(await hull(scaled('0.5, 0.25, 1', '0, 0, 0', 'sRGB'))).toMatchObject({
    value: [0.5, 0.25, 1],
    map: { gain: 1, offset: 0 },
    told: false,
  });
  expect(await hull(scaled('0.5, 0.25, 1', '0, 0, 0', 'sRGB'), 'r')).toMatchObject({
    value: [0.5, 0.5, 0.5],
    told: false,
  });
});

it('biases of light that are alike are read, and others told', async () => {
  expect(await hull(scaled('0.5, 0.5, 0.5', '0.125, 0.125, 0.125'))).toMatchObject({
    map: { gain: 0.5, offset: 0.125 },
    told: false,
  });
  expect((await hull(scaled('0.5, 0.5, 0.5', '0.125, 0.125, 0.125', 'sRGB'))).told).toBe(true);
  expect((await hull(scaled('0.5, 0.5, 0.5', '0.1, 0.2, 0.1'))).told).toBe(true);
  expect((await hull(scaled('0.5, 0.4, 0.5', '0.125, 0.125, 0.125'))).told).toBe(true);
});
