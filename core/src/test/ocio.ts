import { execFileSync } from 'node:child_process';
import type { ColourSpace } from '../scene/material.ts';

/** Transforms of OpenColorIO from each space's numbers to CIE XYZ under D65: its built-ins and its curves. */
const TO_XYZ: Partial<Record<ColourSpace, string[]>> = {
  lin_ciexyzd65_scene: [],
  lin_rec709_scene: ['encode-srgb', '-DISPLAY - CIE-XYZ-D65_to_sRGB'],
  srgb_rec709_scene: ['-DISPLAY - CIE-XYZ-D65_to_sRGB'],
  g22_rec709_scene: ['-DISPLAY - CIE-XYZ-D65_to_G2.2-REC.709'],
  g18_rec709_scene: ['power 1.8', 'encode-srgb', '-DISPLAY - CIE-XYZ-D65_to_sRGB'],
  lin_p3d65_scene: ['power 0.38461538461538464', '-DISPLAY - CIE-XYZ-D65_to_G2.6-P3-D65'],
  srgb_p3d65_scene: ['decode-srgb', 'power 0.38461538461538464', '-DISPLAY - CIE-XYZ-D65_to_G2.6-P3-D65'],
  lin_rec2020_scene: ['power 0.4166666666666667', '-DISPLAY - CIE-XYZ-D65_to_REC.1886-REC.2020'],
  lin_ap1_scene: ['UTILITY - ACES-AP1_to_CIE-XYZ-D65_BFD'],
  g22_ap1_scene: ['power 2.2', 'UTILITY - ACES-AP1_to_CIE-XYZ-D65_BFD'],
  srgb_ap1_scene: ['decode-srgb', 'UTILITY - ACES-AP1_to_CIE-XYZ-D65_BFD'],
  lin_ap0_scene: ['UTILITY - ACES-AP0_to_CIE-XYZ-D65_BFD'],
};

/** Spaces that OpenColorIO's built-in transforms reach. */
export const OCIO_SPACES = Object.keys(TO_XYZ) as ColourSpace[];

const SCRIPT = `
import json, sys
import PyOpenColorIO as ocio
job = json.load(sys.stdin)
F, I = ocio.TRANSFORM_DIR_FORWARD, ocio.TRANSFORM_DIR_INVERSE
def srgb(direction):
    t = ocio.ExponentWithLinearTransform(gamma=[2.4, 2.4, 2.4, 1], offset=[0.055, 0.055, 0.055, 0], negativeStyle=ocio.NEGATIVE_LINEAR)
    t.setDirection(direction)
    return t
def one(word, inverse):
    if word == 'encode-srgb': return srgb(F if inverse else I)
    if word == 'decode-srgb': return srgb(I if inverse else F)
    if word.startswith('power '):
        e = float(word[6:])
        t = ocio.ExponentTransform(value=[e, e, e, 1], negativeStyle=ocio.NEGATIVE_MIRROR)
        if inverse: t.setDirection(I)
        return t
    back = word.startswith('-')
    t = ocio.BuiltinTransform(style=word[1:] if back else word)
    t.setDirection(I if back != inverse else F)
    return t
config = ocio.Config.CreateRaw()
out = []
for source, target in job['pairs']:
    group = ocio.GroupTransform()
    for word in source: group.appendTransform(one(word, False))
    for word in reversed(target): group.appendTransform(one(word, True))
    cpu = config.getProcessor(group).getOptimizedCPUProcessor(ocio.OPTIMIZATION_NONE)
    out.append([list(cpu.applyRGB(list(c))) for c in job['colours']])
json.dump(out, sys.stdout)
`;

/** What OpenColorIO makes of colours for each pair of spaces, by Debian's own Python. */
export function convertByOcio(
  pairs: readonly [ColourSpace, ColourSpace][],
  colours: readonly (readonly number[])[],
): number[][][] {
  const job = { pairs: pairs.map(([from, to]) => [TO_XYZ[from], TO_XYZ[to]]), colours };
  const text = execFileSync('/usr/bin/python3', ['-c', SCRIPT], {
    input: JSON.stringify(job),
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  return JSON.parse(text);
}
