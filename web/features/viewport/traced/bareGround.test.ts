import { DataTexture, DataUtils, DirectionalLight, FloatType, HalfFloatType, RGBAFormat, Scene } from 'three';
import { describe, expect, it } from 'vitest';
import { bareGround } from './bareGround.ts';

/** A sky whose upper and lower half have a brightness each; rows from the nadir. */
function sky(upper: number, lower: number, half: boolean): DataTexture {
  const [width, height] = [64, 64];
  const values = Float32Array.from({ length: width * height * 4 }, (_, i) =>
    i / 4 / width < height / 2 ? lower : upper,
  );
  return half
    ? new DataTexture(
        Uint16Array.from(values, DataUtils.toHalfFloat),
        width,
        height,
        RGBAFormat,
        HalfFloatType,
      )
    : new DataTexture(values, width, height, RGBAFormat, FloatType);
}

function under(environment: DataTexture | null, intensity = 1): Scene {
  const scene = new Scene();
  scene.environment = environment;
  scene.environmentIntensity = intensity;
  return scene;
}

describe('level white ground', () => {
  it.each([
    ['is as bright as an even sky', under(sky(0.8, 0.8, true)), 0.8],
    ['sees nothing of what is below it', under(sky(0, 5, false)), 0],
    ['is lit by the upper half alone', under(sky(0.6, 5, false), 2), 1.2],
    ['is dark without light', under(null), 0],
  ])('%s', (_, scene, expected) => {
    expect(bareGround(scene)).toBeCloseTo(expected, 2);
  });

  it('knows which way up a picture lies', () => {
    const upsideDown = sky(0, 1, false);
    upsideDown.flipY = true;
    expect(bareGround(under(upsideDown))).toBeCloseTo(1, 2);
  });

  it('is lit by lamps by the cosine of their height, over pi, and by none from below', () => {
    const scene = under(null);
    const lamp = new DirectionalLight('#ffffff', Math.PI);
    lamp.position.set(Math.sqrt(3), 1, 0);
    const below = new DirectionalLight('#ffffff', 5);
    below.position.set(0, -1, 0);
    scene.add(lamp, below);
    scene.updateMatrixWorld(true);
    expect(bareGround(scene)).toBeCloseTo(0.5, 6);
    // Of blue light the eye sees little.
    lamp.color.setRGB(0, 0, 1);
    expect(bareGround(scene)).toBeCloseTo(0.0722 / 2, 6);
  });
});
