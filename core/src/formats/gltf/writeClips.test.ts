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

describe('motion of a node with a pivot', () => {
  it('goes round without a jump, to where it turns', () => {
    const { root } = write((document) => {
      const node = createNode('jib', 'group', -1);
      // About 1 on x: what turns there moves by (1 - cos, -sin).
      Object.assign(node.transform, { rotationPivot: [1, 0, 0] });
      document.nodes.push(node);
      const values = Float64Array.of(0, 0, 0, 0, 0, 720);
      const track: Track = {
        node: 0,
        path: 'rotation',
        times: Float64Array.of(0, 4),
        values,
        interpolation: 'linear',
      };
      document.clips.push({ name: 'round', start: 0, end: 4, tracks: [track] });
    });
    const samplers = new Map(
      root
        .listAnimations()[0]
        .listChannels()
        .map((channel) => [channel.getTargetPath(), channel.getSampler()]),
    );
    const [times, turns, places] = [
      samplers.get('rotation')?.getInput()?.getArray() ?? [],
      samplers.get('rotation')?.getOutput()?.getArray() ?? [],
      samplers.get('translation')?.getOutput()?.getArray() ?? [],
    ];
    expect(times.length).toBeGreaterThan(60);
    for (let i = 0; i < times.length; i += 1) {
      const angle = times[i] * Math.PI;
      const [x, y] = [places[i * 3], places[i * 3 + 1]];
      expect(x).toBeCloseTo(1 - Math.cos(angle), 5);
      expect(y).toBeCloseTo(-Math.sin(angle), 5);
      // Half the angle all the way, and never the other way round: a reader would spin between the two.
      expect(turns[i * 4 + 2]).toBeCloseTo(Math.sin(angle / 2), 5);
      expect(turns[i * 4 + 3]).toBeCloseTo(Math.cos(angle / 2), 5);
    }
  });
});

describe('what moves a node with a pivot', () => {
  const samplersOf = (tracks: Track[]) => {
    const { root } = write((document) => {
      const node = createNode('jib', 'group', -1);
      Object.assign(node.transform, { rotationPivot: [1, 0, 0] });
      document.nodes.push(node);
      document.clips.push({ name: 'work', start: 0, end: 2, tracks });
    });
    const channels = root.listAnimations()[0].listChannels();
    return (path: string) => {
      const sampler = channels.find((channel) => channel.getTargetPath() === path)?.getSampler();
      const values = sampler?.getOutput()?.getArray() ?? [];
      const times = sampler?.getInput()?.getArray() ?? [];
      const width = values.length / times.length;
      return {
        interpolation: sampler?.getInterpolation(),
        keys: times.length,
        /** The value that the straight line between keys, or the step, has at a time. */
        at: (time: number) => {
          let index = 0;
          while (index + 2 < times.length && times[index + 1] <= time) index += 1;
          const share = (time - times[index]) / (times[index + 1] - times[index]);
          return Array.from({ length: width }, (_, k) => {
            const [a, b] = [values[index * width + k], values[(index + 1) * width + k]];
            return sampler?.getInterpolation() === 'STEP' ? a : a + (b - a) * share;
          });
        },
      };
    };
  };
  const lift: Track = {
    node: 0,
    path: 'translation',
    times: Float64Array.of(0, 1, 2),
    values: Float64Array.of(0, 0, 0, 0, 5, 0, 0, 9, 0),
    interpolation: 'step',
  };

  it('by steps stays in steps', () => {
    const place = samplersOf([lift])('translation');
    expect([place.interpolation, place.keys]).toEqual(['STEP', 3]);
    expect([0.9, 1.9].map((time) => place.at(time)[1])).toEqual([0, 5]);
  });

  it('by steps and by turns holds each step until the next', () => {
    const turn: Track = { ...lift, path: 'rotation', interpolation: 'linear' };
    turn.values = Float64Array.of(0, 0, 0, 0, 0, 90, 0, 0, 180);
    const sampler = samplersOf([lift, turn]);
    const place = sampler('translation');
    expect(place.interpolation).toBe('LINEAR');
    // About 1 on x: a turn by an angle moves by (1 - cos, -sin).
    for (const [time, height] of [
      [0.95, 0],
      [1.05, 5],
      [1.95, 5],
    ]) {
      const angle = (time * Math.PI) / 2;
      expect(place.at(time)[0]).toBeCloseTo(1 - Math.cos(angle), 3);
      expect(place.at(time)[1]).toBeCloseTo(height - Math.sin(angle), 3);
    }
  });

  it('by quaternions turns about it too', () => {
    const half = Math.SQRT1_2;
    const values = Float64Array.of(0, 0, 0, 1, 0, 0, half, half, 0, 0, 1, 0);
    const sampler = samplersOf([{ ...lift, path: 'quaternion', values, interpolation: 'linear' }]);
    const [x, y] = sampler('translation').at(1);
    expect([x, y].map((value) => Number(value.toFixed(4)))).toEqual([1, -1]);
    expect(sampler('rotation').at(1)[2]).toBeCloseTo(half, 4);
  });
});

it('quick turns by angles are written in pieces that go their way', () => {
  const { root } = write((document) => {
    document.nodes.push(createNode('drum', 'group', -1));
    const values = Float64Array.of(0, 0, 0, 120, 80, 100);
    const times = Float64Array.of(0, 0.1);
    document.clips.push({
      name: 'spin',
      start: 0,
      end: 0.1,
      tracks: [{ node: 0, path: 'rotation', times, values, interpolation: 'linear' }],
    });
  });
  const [sampler] = root.listAnimations()[0].listSamplers();
  // Three hundred degrees in all, at most four of them to the next key.
  expect(sampler.getInput()?.getCount()).toBe(76);
});

it('a clip without tracks takes none of the others away, and one before 0 tells its own name', () => {
  const moved = (index: number): Track => ({
    node: 0,
    path: 'translation',
    times: Float64Array.of(index, index + 1),
    values: Float64Array.of(0, 0, 0, 1, 0, 0),
    interpolation: 'linear',
  });
  const { root, losses } = write((document) => {
    document.nodes.push(createNode('hook', 'group', -1));
    document.clips.push(
      { name: 'empty', start: 0, end: 1, tracks: [] },
      { name: 'early', start: -1, end: 0, tracks: [moved(-1)] },
    );
  });
  expect(root.listAnimations().map((one) => one.getName())).toEqual(['early']);
  expect(losses).toEqual([{ code: 'gltf.early', part: 'early' }]);
});
