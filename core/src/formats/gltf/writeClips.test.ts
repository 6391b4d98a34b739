import { describe, expect, it } from 'vitest';
import { createNode, type Track } from '../../scene/document.ts';
import { writtenScene as write } from '../../test/writtenScene.ts';

describe('clips of glTF as written', () => {
  it('have a channel for each track, and tell of visibility', () => {
    const { root, losses } = write((document) => {
      document.nodes.push(createNode('jib', 'bone', -1));
      const track = { node: 0, times: Float64Array.of(0, 1) };
      document.clips.push({
        name: 'swing',
        start: 0,
        end: 1,
        tracks: [
          {
            ...track,
            path: 'translation',
            values: Float64Array.of(0, 0, 0, 1, 2, 3),
            interpolation: 'linear',
          },
          { ...track, path: 'scale', values: Float64Array.of(1, 1, 1, 2, 2, 2), interpolation: 'step' },
          { ...track, path: 'visible', values: Float64Array.of(1, 0), interpolation: 'step' },
        ],
      });
      document.clips.push({ name: 'empty', start: 0, end: 1, tracks: [] });
    });
    const animations = root.listAnimations();
    expect(animations.map((one) => one.getName())).toEqual(['swing']);
    const channels = animations[0].listChannels().map((channel) => {
      const sampler = channel.getSampler();
      return [
        channel.getTargetPath(),
        sampler?.getInterpolation(),
        [...(sampler?.getInput()?.getArray() ?? [])],
        [...(sampler?.getOutput()?.getArray() ?? [])],
      ];
    });
    expect(channels).toEqual([
      ['translation', 'LINEAR', [0, 1], [0, 0, 0, 1, 2, 3]],
      ['scale', 'STEP', [0, 1], [1, 1, 1, 2, 2, 2]],
    ]);
    expect(losses).toEqual([{ code: 'gltf.visibility' }]);
  });
});

describe('tracks that glTF has no way to write', () => {
  const animated = (track: Omit<Track, 'node'>) => {
    const { root } = write((document) => {
      document.nodes.push(createNode('hook', 'group', -1));
      document.clips.push({ name: 'swing', start: 0, end: 1, tracks: [{ node: 0, ...track }] });
    });
    const [sampler] = root.listAnimations()[0].listSamplers();
    const [input, output] = [sampler.getInput(), sampler.getOutput()];
    return [sampler.getInterpolation(), [...(input?.getArray() ?? [])], [...(output?.getArray() ?? [])]];
  };

  it('of one curved key stay as its value', () => {
    const values = Float64Array.of(9, 9, 9, 1, 2, 3, 8, 8, 8);
    expect(
      animated({ path: 'translation', times: Float64Array.of(0.5), values, interpolation: 'cubic' }),
    ).toEqual(['STEP', [0.5], [1, 2, 3]]);
  });

  it('from before 0 begin at 0, all of a clip alike', () => {
    const { root, losses } = write((document) => {
      document.nodes.push(createNode('hook', 'group', -1));
      const tracks = (['translation', 'scale'] as const).map(
        (path, i): Track => ({
          node: 0,
          path,
          times: Float64Array.of(i - 0.5, 2),
          values: new Float64Array(6),
          interpolation: 'linear',
        }),
      );
      document.clips.push({ name: 'swing', start: -0.5, end: 2, tracks });
    });
    const inputs = root
      .listAnimations()[0]
      .listSamplers()
      .map((sampler) => [...(sampler.getInput()?.getArray() ?? [])]);
    expect(inputs).toEqual([
      [0, 2.5],
      [1, 2.5],
    ]);
    expect(losses).toEqual([{ code: 'gltf.early', part: 'swing' }]);
  });

  it('have each moment of single floats once', () => {
    const times = Float64Array.of(1, 1 + 1e-9, 2);
    const values = Float64Array.of(1, 1, 1, 5, 5, 5, 2, 2, 2);
    expect(animated({ path: 'scale', times, values, interpolation: 'linear' })).toEqual([
      'LINEAR',
      [1, 2],
      [1, 1, 1, 2, 2, 2],
    ]);
  });
});
