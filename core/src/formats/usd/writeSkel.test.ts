import { describe, expect, it } from 'vitest';
import { createNode, type SceneDocument } from '../../scene/document.ts';
import { riggedCrane } from '../../test/rigged.ts';
import type { PrimSpec } from './layer.ts';
import { buildStage } from './writeStage.ts';

const find = (prims: readonly PrimSpec[], name: string): PrimSpec | undefined => {
  for (const prim of prims) {
    const found = prim.name === name ? prim : find(prim.children, name);
    if (found) return found;
  }
};
const numbers = (value: unknown) =>
  Array.from(value as ArrayLike<number>, (component) => Math.round(component * 1e6) / 1e6 + 0);
const stageOf = (document: SceneDocument) => {
  const { layer, losses } = buildStage(document, { name: 'crane' });
  const say = (name: string, property: string) => find(layer.prims, name)?.properties.get(property);
  return { layer, losses, say, value: (name: string, property: string) => say(name, property)?.value };
};

describe('a skeleton in USD', () => {
  it('names its joints as paths, with the rest of each below the one above it', () => {
    const { say, value } = stageOf(riggedCrane());
    expect([value('Skeleton', 'joints'), say('Skeleton', 'joints')?.typeName]).toEqual([
      ['Root', 'Root/Mid', 'Root/Mid/Tip'],
      'token[]',
    ]);
    // Root stands under the crane, which is turned about Y by 30 degrees at (1, 0, 2); the others a metre
    // above.
    const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
    const turned = [c, 0, -s, 0, 0, 1, 0, 0, s, 0, c, 0];
    const up = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 1, 0, 1];
    const round = (list: number[]) => list.map((component) => Math.round(component * 1e6) / 1e6);
    expect(numbers(value('Skeleton', 'restTransforms'))).toEqual(
      round([...turned, 1, 0, 2, 1, ...up, ...up]),
    );
    expect(numbers(value('Skeleton', 'bindTransforms'))).toEqual(
      round([0, 1, 2].flatMap((height) => [...turned, 1, height, 2, 1])),
    );
    expect(say('Skeleton', 'bindTransforms')?.typeName).toBe('matrix4d[]');
    expect(value('Skeleton', 'jointNames')).toBeUndefined();
  });

  it('keeps names that no path can hold beside the joints, and tells twins apart', () => {
    const document = riggedCrane();
    document.nodes[1].name = 'Root.1';
    document.nodes[2].name = 'Mid';
    document.nodes[3].name = 'Mid';
    document.nodes[3].parent = 1;
    const { value } = stageOf(document);
    expect(value('Skeleton', 'joints')).toEqual(['Root_1', 'Root_1/Mid', 'Root_1/Mid_2']);
    expect(value('Skeleton', 'jointNames')).toEqual(['Root.1', 'Mid', 'Mid']);
  });

  it('moves by one table of places, turns and scales for all joints', () => {
    const { say } = stageOf(riggedCrane());
    expect(say('Motion', 'joints')?.value).toEqual(['Root', 'Root/Mid', 'Root/Mid/Tip']);
    const [places, turns, scales] = ['translations', 'rotations', 'scales'].map((name) =>
      say('Motion', name),
    );
    expect([places?.typeName, turns?.typeName, scales?.typeName]).toEqual(['float3[]', 'quatf[]', 'half3[]']);
    const samplesAt = (property: typeof places, seconds: number) =>
      numbers(property?.timeSamples?.get(seconds * 24));
    const rest = [1, 0, 2, 0, 1, 0, 0, 1, 0];
    for (const time of [0, 1, 2]) {
      expect(samplesAt(places, time)).toEqual(rest);
      expect(samplesAt(scales, time)).toEqual(Array(9).fill(1));
    }
    // Quaternions with the real part first: Root rests at 30 degrees about Y; Mid swings to 40 about Z, then
    // 25 about Y.
    const half = (degrees: number) =>
      [Math.cos((degrees * Math.PI) / 360), Math.sin((degrees * Math.PI) / 360)].map(
        (component) => Math.round(component * 1e6) / 1e6,
      );
    const root = [half(30)[0], 0, half(30)[1], 0];
    expect(samplesAt(turns, 0)).toEqual([...root, 1, 0, 0, 0, 1, 0, 0, 0]);
    expect(samplesAt(turns, 1)).toEqual([...root, half(40)[0], 0, 0, half(40)[1], 1, 0, 0, 0]);
    expect(samplesAt(turns, 2)).toEqual([...root, half(25)[0], 0, half(25)[1], 0, 1, 0, 0, 0]);
  });

  it('binds its mesh by joints and weights of one width, filled up with nothing', () => {
    const { say } = stageOf(riggedCrane());
    const [joints, weights] = ['primvars:skel:jointIndices', 'primvars:skel:jointWeights'].map((name) =>
      say('Jib', name),
    );
    expect([joints?.typeName, weights?.typeName]).toEqual(['int[]', 'float[]']);
    expect([joints?.metadata, weights?.metadata]).toEqual(
      Array(2).fill({ interpolation: 'vertex', elementSize: 2 }),
    );
    expect(numbers(joints?.value)).toEqual([0, 0, 0, 0, 0, 1, 0, 1, 1, 2, 1, 2, 2, 0, 2, 0]);
    expect(numbers(weights?.value)).toEqual([
      1, 0, 1, 0, 0.5, 0.5, 0.25, 0.75, 0.75, 0.25, 0.5, 0.5, 1, 0, 1, 0,
    ]);
    expect(say('Jib', 'skel:joints')?.value).toEqual(['Root', 'Root/Mid', 'Root/Mid/Tip']);
    expect(say('Jib', 'skel:skeleton')?.targets).toEqual(['/crane/Skeleton']);
    expect(say('Skeleton', 'skel:animationSource')?.targets).toEqual(['/crane/Motion']);
  });

  it('carries the weights of shapes that move', () => {
    const document = riggedCrane();
    document.clips[0].tracks.push({
      node: 4,
      path: 'weights',
      times: Float64Array.of(0, 2),
      values: Float64Array.of(0, 1, 0.5, 0),
      interpolation: 'linear',
    });
    const { say } = stageOf(document);
    expect(say('Motion', 'blendShapes')).toMatchObject({ typeName: 'token[]', value: ['bulge', 'sag'] });
    const weights = say('Motion', 'blendShapeWeights');
    expect([weights?.typeName, ...[0, 48].map((time) => numbers(weights?.timeSamples?.get(time)))]).toEqual([
      'float[]',
      [0, 1],
      [0.5, 0],
    ]);
  });

  it('is what its mesh is bound to, though a part is called like it', () => {
    const document = riggedCrane();
    document.nodes.push(createNode('Skeleton', 'group', -1));
    const { layer } = buildStage(document, { name: 'crane' });
    const [root] = layer.prims;
    const skeleton = root.children.find(({ typeName }) => typeName === 'Skeleton');
    const bound = root.children
      .flatMap((prim) => [prim, ...prim.children])
      .flatMap((prim) => prim.properties.get('skel:skeleton')?.targets ?? []);
    expect(bound).toEqual([`/crane/${skeleton?.name}`]);
    expect(root.children.filter(({ name }) => name === skeleton?.name)).toHaveLength(1);
  });

  it('tells that nobody sees when a joint is shown', () => {
    const document = riggedCrane();
    const joint = document.skins[0].joints[1];
    document.clips[0].tracks.push({
      node: joint,
      path: 'visible',
      times: Float64Array.of(0, 1),
      values: Float64Array.of(1, 0),
      interpolation: 'step',
    });
    expect(stageOf(document).losses).toContainEqual({
      code: 'usd.jointShown',
      part: document.nodes[joint].name,
    });
  });

  it('tells that shapes without joints cannot move', () => {
    const document = riggedCrane();
    document.skins = [];
    document.nodes[4].skin = -1;
    document.meshes[0].influences = null;
    document.clips.length = 1;
    document.clips[0].tracks = [
      {
        node: 4,
        path: 'weights',
        times: Float64Array.of(0),
        values: Float64Array.of(0, 1),
        interpolation: 'linear',
      },
    ];
    expect(stageOf(document).losses.map(({ code }) => code)).toContain('usd.morphMotion');
    document.clips[0].tracks = [];
    expect(stageOf(document).losses.map(({ code }) => code)).not.toContain('usd.morphMotion');
  });
});
