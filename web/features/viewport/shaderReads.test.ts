import { createMapUse } from '@kinkajou/core/scene/material';
import {
  MeshPhysicalMaterial,
  ShaderLib,
  type WebGLProgramParametersWithUniforms,
  type WebGLRenderer,
} from 'three';
import { expect, test } from 'vitest';
import { patchReads, type Reads } from './shaderReads.ts';

const CHANNELS = [
  'baseColor',
  'roughness',
  'metalness',
  'occlusion',
  'opacity',
  'emission',
  'sheenColor',
  'specularColor',
  'specular',
  'coat',
  'coatRoughness',
  'transmission',
  'height',
] as const;

function compile(
  channels: readonly (typeof CHANNELS)[number][],
  shaders: { vertexShader: string; fragmentShader: string } = ShaderLib.physical,
) {
  const material = new MeshPhysicalMaterial();
  const use = (channel: (typeof CHANNELS)[number]) => ({
    ...createMapUse('a', channel, { component: 'g', invert: true, gain: 0.5, offset: 0.25 }),
    decode: false,
  });
  const reads: Reads = Object.fromEntries(channels.map((channel) => [channel, use(channel)]));
  patchReads(material, reads, { rawOutput: true, turnGreen: true, specGloss: true });
  const shader = { ...shaders, uniforms: {} };
  material.onBeforeCompile(
    shader as unknown as WebGLProgramParametersWithUniforms,
    null as unknown as WebGLRenderer,
  );
  return { ...shader, uniforms: shader.uniforms as Record<string, { value: { x: number; y: number } }> };
}

test('every channel finds its place in the shader, and is told its component and range', () => {
  const { vertexShader, fragmentShader, uniforms } = compile(CHANNELS);
  for (const channel of CHANNELS) {
    const source = channel === 'height' ? vertexShader : fragmentShader;
    // Declared, and used at least once more.
    expect(source.split(`kj_${channel}_mask`).length, channel).toBeGreaterThan(2);
    expect(uniforms[`kj_${channel}_mask`].value).toMatchObject({ x: 0, y: 1 });
    // (1 - x) * 0.5 + 0.25 is -0.5 x + 0.75.
    expect(uniforms[`kj_${channel}_how`].value).toMatchObject({ x: -0.5, y: 0.75 });
  }
  expect(fragmentShader).not.toContain('#include <colorspace_fragment>');
});

test('a shader that lacks a piece is refused by name', () => {
  const { vertexShader, fragmentShader } = ShaderLib.physical;
  const other = {
    vertexShader,
    fragmentShader: fragmentShader.replace('#include <roughnessmap_fragment>', ''),
  };
  expect(() => compile(['roughness'], other)).toThrow(/#include <roughnessmap_fragment>/);
  expect(() => compile(['metalness'], other)).not.toThrow();
});
