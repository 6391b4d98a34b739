import { describe, expect, it } from 'vitest';
import { classifyNames, type NameClass, type NameOptions } from './classifyName.ts';

/** What each of some names that lie together says: `set: component channel`. */
function read(names: string[], options?: NameOptions): string[] {
  return classifyNames(names, options).map(inWords);
}

function inWords({ set, readings }: NameClass): string {
  return `${set}: ${readings.map(({ component, channel, invert }) => `${component} ${channel}${invert ? ' inverted' : ''}`).join(', ')}`;
}

describe('names', () => {
  it.each([
    ['hull_basecolor_2k.png', 'baseColor', 'hull'],
    ['HullPaint_BaseColor.1001.exr', 'baseColor', 'hull paint'],
    ['rope-roughness-v003.tif', 'roughness', 'rope'],
    ['T_Lamp_Normal_GL.png', 'normal', 't lamp'],
    ['lamp_ao.jpg', 'occlusion', 'lamp'],
    ['hull_emi.png', 'emission', 'hull'],
    ['HullColor2K.png', 'baseColor', 'hull'],
  ])('%s is %s of "%s"', (name, channel, set) => {
    const [found] = classifyNames([name]);
    expect(found.readings[0]?.channel).toBe(channel);
    expect(found.set).toBe(set);
  });

  it('spells packed orders', () => {
    const order = (name: string) =>
      classifyNames([name])[0].readings.map((reading) => `${reading.component} ${reading.channel}`);
    expect(order('hull_ORM.png')).toEqual(['r occlusion', 'g roughness', 'b metalness']);
    expect(order('hull_mra.png')).toEqual(['r metalness', 'g roughness', 'b occlusion']);
    expect(order('hull_MaskMap.png')).toEqual(['r metalness', 'g occlusion', 'a glossiness']);
    expect(order('hull_AlbedoTransparency.png')).toEqual(['rgb baseColor', 'a opacity']);
    expect(order('hull_metallicsmoothness.png')).toEqual(['r metalness', 'a glossiness']);
  });

  it('trusts single letters only beside siblings, and says when it doubts', () => {
    expect(classifyNames(['hull_m.png'])[0].readings).toEqual([]);
    expect(classifyNames(['hull_r.png', 'hull_m.png', 'hull_n.png'])[1]).toMatchObject({
      readings: [{ channel: 'metalness' }],
      confidence: 0.8,
    });
    expect(read(['d.png', 'n.png', 'r.png'])).toEqual([': rgb baseColor', ': rgb normal', ': r roughness']);
  });
});

describe('names read together', () => {
  it('spells orders with two letters for a channel, where siblings stand beside', () => {
    const rock = ['rock_BC.png', 'rock_N.png'];
    const order = (name: string, beside = rock) => read([...beside, name]).at(-1);
    expect(order('rock_ORDp.png')).toBe('rock: r occlusion, g roughness, b height');
    expect(order('rock_MtRA.png')).toBe('rock: r metalness, g roughness, b occlusion');
    expect(order('rock_RMtAO.png')).toBe('rock: r roughness, g metalness, b occlusion');
    expect(order('this_or_d.png', ['that_col.png'])).toBe('this or: ');
  });

  it('takes what is spelled behind a picture or vectors for what rides in their alpha', () => {
    const pair = (name: string) => read([name])[0].replace(/^hull: /, '');
    expect(pair('hull_NormalRoughness.png')).toBe('rgb normal, a roughness');
    expect(pair('hull_Normal_Gloss.png')).toBe('rgb normal, a glossiness');
    expect(pair('hull_AlbedoAO.png')).toBe('rgb baseColor, a occlusion');
    expect(pair('hull_SpecularGloss.png')).toBe('rgb specularColor, a glossiness');
  });

  it('knows the letters of MTL beside each other', () => {
    expect(read(['hull_Kd.png', 'hull_Ks.png', 'hull_Ke.png', 'hull_d.png'])).toEqual([
      'hull: rgb baseColor',
      'hull: rgb specularColor',
      'hull: rgb emission',
      'hull: r opacity',
    ]);
  });

  it('takes words that siblings share for the thing, whatever they mean elsewhere', () => {
    expect(
      read([
        'T_GlowSign_D.png',
        'T_GlowSign_N.png',
        'T_RoughRope_D.png',
        'T_RoughRope_N.png',
        'T_NormalBolt_D.png',
        'T_NormalBolt_N.png',
      ]),
    ).toEqual([
      't glow sign: rgb baseColor',
      't glow sign: rgb normal',
      't rough rope: rgb baseColor',
      't rough rope: rgb normal',
      't normal bolt: rgb baseColor',
      't normal bolt: rgb normal',
    ]);
    expect(read(['metal_plate_metal.png', 'metal_plate_color.png', 'metal_plate_rough.png'])).toEqual([
      'metal plate: r metalness',
      'metal plate: rgb baseColor',
      'metal plate: r roughness',
    ]);
    expect(read(['crane_arm_d.png', 'crane_arm_n.png', 'crane_arm_arm.png'])[2]).toBe(
      'crane arm: r occlusion, g roughness, b metalness',
    );
  });

  it('does not act on a word for a thing before a lone letter', () => {
    expect(classifyNames(['T_GlowSign_D.png'])[0]).toMatchObject({
      readings: [{ channel: 'baseColor' }],
      confidence: 0.65,
    });
  });

  it('takes a bare name for the base colour of the set that its siblings form', () => {
    expect(read(['normal_bolt.png', 'normal_bolt_n.png', 'normal_bolt_rough.png'])[0]).toBe(
      'normal bolt: rgb baseColor',
    );
    expect(read(['glow_sign.png', 'glow_sign_n.png', 'glow_sign_rough.png'])[0]).toBe(
      'glow sign: rgb baseColor',
    );
    // Its set has a base colour already.
    expect(read(['rope.png', 'rope_color.png', 'rope_normal.png'])[0]).toBe('rope: ');
  });

  it('keeps numbers that tell siblings apart, and drops resolutions, versions and tiles', () => {
    expect(
      read(['part_001_d.png', 'part_001_n.png', 'part_002_d.png', 'part_002_n.png']).map(
        (line) => line.split(':')[0],
      ),
    ).toEqual(['part 001', 'part 001', 'part 002', 'part 002']);
    // 512 is a part among 511 and 513, and a resolution elsewhere.
    expect(read(['part_511_color.png', 'part_512_color.png', 'hull_color_512.png'])).toEqual([
      'part 511: rgb baseColor',
      'part 512: rgb baseColor',
      'hull: rgb baseColor',
    ]);
    expect(classifyNames(['hull_color_v02_2k.png'])[0].marks).toEqual(['v02', '2k']);
  });

  it('reads folders that are called like channels', () => {
    expect(read(['color/hull.png', 'normal/hull.png', 'roughness/deck.png'])).toEqual([
      'hull: rgb baseColor',
      'hull: rgb normal',
      'deck: r roughness',
    ]);
    expect(classifyNames(['color/hull.png'])[0].confidence).toBeLessThan(0.8);
  });

  it('keeps an unknown word in the place of the channel out of the set', () => {
    expect(read(['hull_tinte.png', 'hull_normal.png', 'hull_rough.png'])[0]).toBe('hull: ');
  });

  it('knows words of the house', () => {
    expect(
      read(['hull_tinte.png', 'hull_ruw.png'], { house: { tinte: 'baseColor', ruw: 'roughness' } }),
    ).toEqual(['hull: rgb baseColor', 'hull: r roughness']);
  });

  it('doubts two letters for two channels until pixels bear them out', () => {
    const [found] = classifyNames(['hull_rm.png', 'hull_bc.png', 'hull_nrm.png']);
    expect(found).toMatchObject({
      confidence: 0.7,
      readings: [
        { channel: 'roughness', component: 'g' },
        { channel: 'metalness', component: 'b' },
      ],
    });
  });
});
