import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type Light } from '../../scene/document.ts';
import { grownLights } from '../../scene/grownLights.ts';
import { applyIntake, TAKE_ALL } from '../../scene/intake.ts';
import { lamp } from '../../test/lamp.ts';
import { scaledTo } from './pieces.ts';

const LAMP = lamp({ kind: 'point', intensity: 4 });

describe('lights of a model that grows', () => {
  it.each<[Partial<Light>, number]>([
    [{}, 36],
    [{ kind: 'spot' }, 36],
    [{ fading: 'none' }, 4],
    [{ fading: 'linear' }, 12],
    [{ kind: 'spot', fading: 'cubic' }, 108],
    [{ kind: 'directional' }, 4],
    [{ kind: 'area' }, 4],
    [{ kind: 'dome' }, 4],
  ])('to three times its size: %o shines with %d', (more, strength) => {
    expect(grownLights([{ ...LAMP, ...more }], 3)).toEqual([{ ...LAMP, ...more, intensity: strength }]);
  });

  const quay = () => {
    const document = createDocument('gltf', '');
    document.meshes.push(
      createMesh('plate', {
        points: Float64Array.of(0, 0, 0, 2, 0, 0, 0, 1, 0),
        faceCounts: Uint32Array.of(3),
        faceCorners: Uint32Array.of(0, 1, 2),
      }),
    );
    document.lights.push(LAMP);
    document.nodes.push(
      createNode('plate', 'mesh', -1, { mesh: 0 }),
      createNode('lamp', 'light', -1, { light: 0 }),
    );
    return document;
  };
  const strength = ({ lights: [light] }: { lights: Light[] }) => light.intensity;

  it('keep what falls on it where another unit is understood, and where it is taken larger', () => {
    expect(strength(applyIntake(quay(), { ...TAKE_ALL, metresPerUnit: 0.01 }))).toBeCloseTo(4e-4, 12);
    expect(strength(applyIntake(quay(), { ...TAKE_ALL, scale: 3 }))).toBeCloseTo(36, 9);
    expect(strength(applyIntake(quay(), { ...TAKE_ALL, up: 'Z' }))).toBe(4);
  });

  it('keep it where a destination wants it in another size', () => {
    // Two metres long: five times as large.
    expect(strength(scaledTo(quay(), 10))).toBeCloseTo(100, 9);
    expect(strength(scaledTo(quay(), 0))).toBe(4);
  });
});
