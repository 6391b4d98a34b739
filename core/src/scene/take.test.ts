import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from './document.ts';
import { TAKE_PARTS, type TakePart, takeOnly } from './take.ts';

/** A crane: a group over a skinned mesh with a shape, its two bones, and a lamp on the tip. */
function crane(): SceneDocument {
  const document = createDocument('fbx', 'binary 7.5');
  document.meshes.push(
    createMesh('jib', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
      influences: {
        starts: Uint32Array.of(0, 1, 2, 3),
        joints: Uint32Array.of(0, 1, 1),
        weights: Float32Array.of(1, 1, 1),
      },
    }),
  );
  document.nodes.push(
    createNode('crane', 'group', -1),
    createNode('jib', 'mesh', 0, { mesh: 0, skin: 0 }),
    createNode('root', 'bone', 0),
    createNode('tip', 'bone', 2),
    createNode('lamp', 'light', 3, { light: 0 }),
  );
  document.lights.push({} as never);
  document.skins.push({ name: 'skin', joints: [2, 3], inverseBind: [] } as never);
  document.clips.push({
    name: 'swing',
    start: 0,
    end: 1,
    tracks: [2, 4].map((node) => ({
      node,
      path: 'translation' as const,
      times: Float64Array.of(0),
      values: Float64Array.of(0, 0, 0),
      interpolation: 'linear' as const,
    })),
  });
  return document;
}

const without = (...parts: TakePart[]) => new Set(TAKE_PARTS.filter((part) => !parts.includes(part)));
const names = (document: SceneDocument) => document.nodes.map((node) => `${node.name}:${node.parent}`);

describe('taking parts of a model', () => {
  it('gives the document itself when all is wanted', () => {
    const whole = crane();
    expect(takeOnly(whole, new Set(TAKE_PARTS))).toBe(whole);
  });

  it('leaves bones without skins only where a part hangs on them', () => {
    const taken = takeOnly(crane(), without('skins'));
    expect(names(taken)).toEqual(['crane:-1', 'jib:0', 'root:0', 'tip:2', 'lamp:3']);
    expect(taken.meshes[0].influences).toBeNull();
    expect(names(takeOnly(crane(), without('skins', 'lights')))).toEqual(['crane:-1', 'jib:0']);
  });

  it('renumbers parents, joints and tracks', () => {
    const taken = takeOnly(crane(), without('lights'));
    expect(names(taken)).toEqual(['crane:-1', 'jib:0', 'root:0', 'tip:2']);
    expect(taken.skins[0].joints).toEqual([2, 3]);
    expect(taken.clips[0].tracks.map((track) => track.node)).toEqual([2]);
    const bare = takeOnly(crane(), without('meshes'));
    expect(names(bare)).toEqual(['crane:-1', 'root:0', 'tip:1', 'lamp:2']);
    expect(bare.clips[0].tracks.map((track) => track.node)).toEqual([1, 3]);
    expect(bare.skins).toEqual([]);
  });

  it('does not change what it was given', () => {
    const whole = crane();
    const before = structuredClone(whole);
    takeOnly(whole, new Set(['meshes']));
    expect(whole).toEqual(before);
  });
});
