import { isColourSpace, spaceDefinition } from '../../colour/spaces.ts';
import { decodeSrgb, encodeSrgb } from '../../scene/transfer.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { slotFinding, slotInWords } from '../slots/slotFinding.ts';
import { glassWord } from '../surface/materialFinding.ts';

/** Plausible albedo in 8-bit sRGB codes, from black paint to white; and of metals. */
const DIELECTRIC = [14, 248] as const;
const METAL_LEAST = 180;
/** Share of the pixels (between the percentiles kept in the facts) that must lie beyond before it is told. */
const LOW = 1;
const MIDDLE = 3;
const HIGH = 5;

/**
 * A base colour darker than coal or brighter than snow, or a metal darker than any: wrong encoding, or baked
 * light.
 */
export const colourAlbedoRange: Check = ({ slots, floats }) =>
  slots.flatMap((slot): Finding[] => {
    const { channel, map, facts, file, material } = slot;
    if (
      channel !== 'baseColor' ||
      !facts ||
      !file ||
      !isColourSpace(map.space) ||
      map.component !== 'rgb' ||
      map.invert
    )
      return [];
    // A map whose numbers are taken the wrong way is told about for that.
    if (
      floats().some((colour) => colour.slot === slot && !colour.settled && colour.judged.state !== 'linear')
    )
      return [];
    const { decode } = spaceDefinition(map.space).transfer;
    const codes = facts.percentiles.map(
      (value) => encodeSrgb(decode(Math.max(0, value) ** (map.exponent ?? 1))) * 255,
    );
    const metal = metalOf(material.channels.metalness);
    // Glass that is set to metal is told about for that.
    if (metal === 'metal' && glassWord(material)) return [];
    // What glows is painted black.
    if (material.channels.emission?.map && codes[HIGH] < DIELECTRIC[0]) return [];
    const problem = problemOf(codes, metal);
    if (!problem) return [];
    const range = `5 to 95 of 100 pixels lie at ${codes[LOW].toFixed(0)} to ${codes[HIGH].toFixed(0)} in 8-bit sRGB, median ${codes[MIDDLE].toFixed(0)}`;
    return [
      slotFinding(slot, {
        code: 'colour.albedoRange',
        step: 'colour',
        severity: 'note',
        title: 'Base colour out of range',
        message: `${slotInWords(slot)}; ${problem}.`,
        evidence: [
          range,
          metal === 'metal'
            ? `metals reflect ${METAL_LEAST} to 255`
            : `surfaces reflect ${DIELECTRIC[0]} to ${DIELECTRIC[1]}, linear ${decodeSrgb(DIELECTRIC[0] / 255).toFixed(3)} to ${decodeSrgb(DIELECTRIC[1] / 255).toFixed(3)}`,
        ],
        mend: null,
        safe: false,
        mendLabel: '',
      }),
    ];
  });

function problemOf(codes: readonly number[], metal: 'metal' | 'dielectric' | 'mixed'): string | null {
  if (metal === 'mixed') return null;
  if (metal === 'metal') return codes[HIGH] < METAL_LEAST ? 'as a metal it is darker than any metal' : null;
  if (codes[HIGH] < DIELECTRIC[0]) return 'it is darker than black paint nearly everywhere';
  return codes[LOW] > DIELECTRIC[1] ? 'it is brighter than white paint nearly everywhere' : null;
}

function metalOf(channel: { value: unknown; map: unknown } | undefined): 'metal' | 'dielectric' | 'mixed' {
  if (channel?.map) return 'mixed';
  const value = typeof channel?.value === 'number' ? channel.value : 0;
  if (value > 0.9) return 'metal';
  return value < 0.1 ? 'dielectric' : 'mixed';
}
