import fc from 'fast-check';
import { Euler, Quaternion, Matrix4 as ThreeMatrix, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import type { RotationOrder, Vec3 } from './document.ts';
import { identityTransform } from './document.ts';
import {
  decompose,
  eulerOf,
  identity,
  isPlain,
  localMatrix,
  multiply,
  partsOfMatrix,
  quaternionOf,
  rotation,
  rotationOfQuaternion,
  scaling,
  translation,
  worldMatrices,
} from './matrix.ts';

const ORDERS: RotationOrder[] = ['XYZ', 'XZY', 'YZX', 'YXZ', 'ZXY', 'ZYX'];
const angle = fc.double({ min: -175, max: 175, noNaN: true });
const angles = fc.tuple(angle, angle, angle);
const close = (a: ArrayLike<number>, b: ArrayLike<number>, digits = 9) => {
  for (let i = 0; i < a.length; i += 1) expect(a[i]).toBeCloseTo(b[i], digits);
};

describe('rotation', () => {
  it('agrees with three in every order, whose names read outermost first', () => {
    fc.assert(
      fc.property(angles, fc.constantFrom(...ORDERS), (v, order) => {
        const reversed = [...order].reverse().join('') as 'XYZ';
        const theirs = new ThreeMatrix().makeRotationFromEuler(
          new Euler(...(v.map((a) => (a * Math.PI) / 180) as Vec3), reversed),
        );
        close(rotation(v as Vec3, order), theirs.elements);
      }),
    );
  });

  it('comes back from its angles and from its quaternion', () => {
    fc.assert(
      fc.property(angles, fc.constantFrom(...ORDERS), (v, order) => {
        const m = rotation(v as Vec3, order);
        close(rotation(eulerOf(m, order), order), m, 6);
        close(rotationOfQuaternion(quaternionOf(m)), m);
        // The same turn, however long the quaternion is.
        close(rotationOfQuaternion(quaternionOf(m).map((value) => value * 0.7)), m);
      }),
    );
    for (const order of ORDERS) {
      for (const pole of [90, -90]) {
        const v: Vec3 = [20, 20, 20];
        v[order.charCodeAt(1) - 88] = pole;
        close(rotation(eulerOf(rotation(v, order), order), order), rotation(v, order), 6);
      }
    }
    expect([...rotationOfQuaternion([0, 0, 0, 0])]).toEqual([...identity()]);
  });
});

describe('decompose', () => {
  it('agrees with three on mirrored and scaled matrices', () => {
    const m = multiply(multiply(translation([3, -4, 5]), rotation([30, -50, 70])), scaling([2, 3, 4]));
    const theirs = [new Vector3(), new Quaternion(), new Vector3()] as const;
    new ThreeMatrix().fromArray(m).decompose(...theirs);
    const ours = decompose(m);
    close(ours.translation, theirs[0].toArray());
    close(ours.quaternion, theirs[1].toArray());
    close(ours.scale, theirs[2].toArray());
    const mirrored = partsOfMatrix(multiply(m, scaling([1, -1, 1])));
    expect(mirrored.matrix).toBeNull();
    close(localMatrix(mirrored), multiply(m, scaling([1, -1, 1])));
  });

  it('keeps a sheared matrix whole', () => {
    const sheared = multiply(multiply(rotation([0, 0, 30]), scaling([3, 1, 1])), rotation([0, 0, 40]));
    expect(decompose(sheared).exact).toBe(false);
    close(localMatrix(partsOfMatrix(sheared)), sheared);
  });
});

describe('decompose of a sheared matrix', () => {
  it.each([
    [multiply(multiply(rotation([30, 40, 50]), scaling([1, 2, 0.5])), rotation([20, 70, 10]))],
    [multiply(multiply(rotation([-80, 10, 5]), scaling([-1, 3, 1])), rotation([0, 45, 60]))],
  ])('keeps where Z looks and what is up for it (%#)', (m) => {
    const { quaternion, rotation: angles, exact } = decompose(m);
    expect(exact).toBe(false);
    const of = new ThreeMatrix().fromArray(m);
    const z = new Vector3(0, 0, 1).transformDirection(of);
    const y = new Vector3(0, 1, 0).transformDirection(of);
    y.addScaledVector(z, -y.dot(z)).normalize();
    const turn = new Quaternion().fromArray(quaternion);
    close(new Vector3(0, 0, 1).applyQuaternion(turn).toArray(), z.toArray());
    close(new Vector3(0, 1, 0).applyQuaternion(turn).toArray(), y.toArray());
    close(rotation(angles), new ThreeMatrix().makeRotationFromQuaternion(turn).toArray());
  });

  it('gives a turn where Y and Z fall together', () => {
    const flat = Float64Array.of(1, 0, 0, 0, 0, 0, 2, 0, 0, 0, 3, 0, 0, 0, 0, 1);
    const turn = new Quaternion().fromArray(decompose(flat).quaternion);
    expect(turn.length()).toBeCloseTo(1, 9);
    close(new Vector3(0, 0, 1).applyQuaternion(turn).toArray(), [0, 0, 1]);
  });
});

describe('world matrices', () => {
  it('leave the parent scale out of a child that does not inherit it', () => {
    const parent = { parent: -1, transform: { ...identityTransform(), scale: [2, 2, 2] as Vec3 } };
    const child = {
      parent: 0,
      transform: { ...identityTransform(), translation: [1, 0, 0] as Vec3, inherit: 'Rrs' as const },
    };
    const [, world] = worldMatrices([parent, child]);
    // It stands where the scaled parent puts it, with axes of length 1.
    expect([world[12], world[0], world[5]]).toEqual([2, 1, 1]);
  });

  it('bring what the parent hangs on down behind the own turn', () => {
    const quarter = { ...identityTransform(), rotation: [0, 0, 90] as Vec3 };
    const [, , world] = worldMatrices([
      { parent: -1, transform: { ...identityTransform(), scale: [3, 1, 1] } },
      { parent: 0, transform: { ...identityTransform(), scale: [1, 5, 1] } },
      { parent: 1, transform: { ...quarter, scale: [1, 1, 2], inherit: 'Rrs' } },
    ]);
    // Three times as long along its own x, which the quarter turn lays along y; nothing of the parent's five.
    close(world, [0, 3, 0, 0, -1, 0, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1]);
  });
});

describe('a plain transform', () => {
  it('is one of place, turn and size alone', () => {
    const plain = identityTransform();
    Object.assign(plain, { translation: [1, 2, 3], rotation: [10, 20, 30], scale: [2, 2, 2] });
    expect(isPlain(plain)).toBe(true);
    for (const key of ['rotationPivot', 'rotationOffset', 'scalingPivot', 'scalingOffset'] as const)
      for (let axis = 0; axis < 3; axis += 1) {
        const pivoted = structuredClone(plain);
        pivoted[key][axis] = 0.5;
        expect(isPlain(pivoted), `${key} ${axis}`).toBe(false);
      }
    expect(isPlain({ ...plain, matrix: identity() })).toBe(false);
  });
});
