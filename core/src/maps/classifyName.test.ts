import { describe, expect, it } from 'vitest';
import { classifyNames } from './classifyName.ts';

describe('names', () => {
  it.each([
    ['hull_basecolor_2k.png', 'baseColor', 'hull'],
    ['HullPaint_BaseColor.1001.exr', 'baseColor', 'hull paint'],
    ['rope-roughness-v003.tif', 'roughness', 'rope'],
    ['T_Lamp_Normal_GL.png', 'normal', 't lamp'],
    ['lamp_ao.jpg', 'occlusion', 'lamp'],
  ])('%s is %s of "%s"', (name, channel, set) => {
    const [found] = classifyNames([name]);
    expect(found.readings[0]?.channel).toBe(channel);
    expect(found.set).toBe(set);
  });

  it('spells packed orders', () => {
    const order = (name: string) => classifyNames([name])[0].readings.map((reading) => `${reading.component} ${reading.channel}`);
    expect(order('hull_ORM.png')).toEqual(['r occlusion', 'g roughness', 'b metalness']);
    expect(order('hull_mra.png')).toEqual(['r metalness', 'g roughness', 'b occlusion']);
  });

  it('trusts single letters only beside siblings, and says when it doubts', () => {
    expect(classifyNames(['hull_m.png'])[0].readings).toEqual([]);
    expect(classifyNames(['hull_r.png', 'hull_m.png', 'hull_n.png'])[1]).toMatchObject({ readings: [{ channel: 'metalness' }], confidence: 0.8 });
  });
});
