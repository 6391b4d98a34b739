import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { seeParts } from '../test/compare.ts';
import { convexDocuments } from '../test/documents.ts';
import { lens } from '../test/lens.ts';
import { createNode, identityTransform } from './document.ts';
import { applyIntake, describeIntake, intakeSize, lastingIntake, TAKE_ALL } from './intake.ts';
import { countDocument, measureBounds } from './measure.ts';
import { TAKE_PARTS, takeOnly } from './take.ts';

describe('taking a model', () => {
  it('with everything as stated changes nothing', () => {
    fc.assert(
      fc.property(convexDocuments, (document) => {
        expect(applyIntake(document, TAKE_ALL)).toBe(document);
      }),
    );
  });

  it('understands another unit and up axis without moving a number', () => {
    const [document] = fc.sample(convexDocuments, { numRuns: 1, seed: 3 });
    const taken = applyIntake(document, { ...TAKE_ALL, up: 'Z', metresPerUnit: 0.001 });
    expect(taken.metresPerUnit).toBe(0.001);
    expect(taken.axes.up.axis).toBe(2);
    expect(taken.nodes).toEqual(document.nodes);
  });

  it('turns and sizes about the origin in Y-up space', () => {
    fc.assert(
      fc.property(convexDocuments, (document) => {
        const before = seeParts(document);
        const after = seeParts(applyIntake(document, { ...TAKE_ALL, rotation: [90, 0, 0], scale: 2 }));
        before.forEach((part, p) =>
          part.faces.forEach((face, f) =>
            face.corners.forEach(([x, y, z], c) => {
              // A quarter turn about x takes y to z and z to -y.
              [2 * x, -2 * z, 2 * y].forEach((value, k) =>
                expect(after[p].faces[f].corners[c][k]).toBeCloseTo(value, 6),
              );
            }),
          ),
        );
      }),
      { numRuns: 30 },
    );
  });

  it('measures the size that will be', () => {
    const bounds = { min: [0, 0, 0] as [number, number, number], max: [1, 2, 3] as [number, number, number] };
    expect(intakeSize(bounds, 'Y', 0.01)).toEqual({ width: 1, height: 2, depth: 3 });
    expect(intakeSize(bounds, 'Y', 0.01, { ...TAKE_ALL, up: 'Z' })).toEqual({
      width: 1,
      height: 3,
      depth: 2,
    });
    expect(intakeSize(bounds, 'Y', 0.01, { ...TAKE_ALL, metresPerUnit: 1 }).height).toBeCloseTo(200, 9);
    expect(intakeSize(bounds, 'Y', 0.01, { ...TAKE_ALL, rotation: [0, 0, 90] }).height).toBeCloseTo(1, 9);
  });

  it('leaves what is not wanted, and what then holds nothing', () => {
    const [made] = fc.sample(convexDocuments, { numRuns: 1, seed: 5 });
    const document = {
      ...made,
      cameras: [lens({ name: 'c', near: 1 })],
      nodes: [
        ...made.nodes,
        createNode('Holder', 'group', -1),
        createNode('View', 'camera', made.nodes.length, { camera: 0, transform: identityTransform() }),
      ],
    };
    const without = takeOnly(document, new Set(TAKE_PARTS.filter((part) => part !== 'cameras')));
    expect(countDocument(without)).toMatchObject({ cameras: 0, polygons: countDocument(made).polygons });
    expect(without.nodes.map((node) => node.name)).not.toContain('View');
    const alone = takeOnly(document, new Set(['cameras'] as const));
    expect(countDocument(alone)).toMatchObject({ cameras: 1, meshes: 0, materials: 0 });
    expect(alone.nodes.map((node) => node.name)).toContain('Holder');
    expect(measureBounds(alone)).toBeNull();
  });

  it('reads in words', () => {
    expect(describeIntake(TAKE_ALL)).toBe('Take everything as stated');
    expect(
      describeIntake({
        ...TAKE_ALL,
        parts: ['meshes', 'materials', 'clips', 'skins', 'shapes'],
        up: 'Z',
        scale: 2,
      }),
    ).toBe('Take: leave cameras, lights; Z up; 2 times the size');
  });

  it('keeps parts, axis and unit for the next model, and no size or turn', () => {
    const given = {
      parts: ['meshes' as const],
      up: 'Z' as const,
      metresPerUnit: 0.01,
      rotation: [0, 90, 0] as [number, number, number],
      scale: 0.1,
    };
    expect(lastingIntake(given)).toEqual({
      parts: ['meshes'],
      up: 'Z',
      metresPerUnit: 0.01,
      rotation: [0, 0, 0],
      scale: 1,
    });
  });
});
