import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { ShaderMaterial, type WebGLRenderer } from 'three';
import { expect, test } from 'vitest';
import { prefilterOf, withFewerSamples } from './prefilter.ts';

test('finds its pieces in the filter of the three that is installed', async () => {
  const folder = createRequire(import.meta.url)
    .resolve('three')
    .replace(/build\/.*$/, '');
  const source = await readFile(`${folder}src/extras/PMREMGenerator.js`, 'utf8');
  expect(source).toContain('const GGX_SAMPLES = 256;');
  const shader = source.replace(/GGX_SAMPLES \$\{ GGX_SAMPLES \}u/, 'GGX_SAMPLES 256u');
  const changed = withFewerSamples(shader);
  expect(changed).toContain('#define GGX_SAMPLES 32u');
  // A sample of eight times the solid angle is one and a half levels up.
  expect(changed).toContain('max( log2( d ) + lodBias + 1.50, 0.0 )');
  expect(withFewerSamples('void main() {}')).toBe('void main() {}');
  // Where three puts its filter, it is changed on the way.
  expect(source).toContain('this._ggxMaterial = _getGGXMaterial();');
  const generator = prefilterOf({} as WebGLRenderer) as unknown as { _ggxMaterial: ShaderMaterial | null };
  expect(generator._ggxMaterial).toBeNull();
  generator._ggxMaterial = new ShaderMaterial({ fragmentShader: shader });
  expect(generator._ggxMaterial?.fragmentShader).toBe(changed);
});
