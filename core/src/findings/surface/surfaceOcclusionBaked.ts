import { percent } from '../../maps/judgePixels.ts';
import { fitLine, sketchPlane } from '../../maps/sketch.ts';
import { sameLaying } from '../../scene/mapUse.ts';
import type { Component } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import type { MappedSlot } from '../slots/mappedSlot.ts';
import { materialFinding, shown } from './materialFinding.ts';

/** The logarithms of base and occlusion must move together this much, and by about the same amount. */
const CORRELATION = 0.75;
const SLOPES = [0.7, 1.4];
/** Keeps logarithms of black in bounds. */
const BLACK = 0.02;

/** Occlusion multiplied into a base colour that has an occlusion map beside it: corners darken twice. */
export const surfaceOcclusionBaked: Check = ({ slots }) =>
  slots.flatMap((base): Finding[] => {
    if (base.channel !== 'baseColor' || !base.facts) return [];
    const occlusion = slots.find(
      (other) => other.channel === 'occlusion' && other.material === base.material,
    );
    if (!occlusion?.facts || !sameLaying(base.map, occlusion.map) || base.file === occlusion.file) return [];
    const fit = fitOf(base, occlusion);
    if (!fit || fit.correlation < CORRELATION || fit.slope < SLOPES[0] || fit.slope > SLOPES[1]) return [];
    const { material } = base;
    return [
      materialFinding(material, 'baseColor', {
        code: 'surface.occlusionBaked',
        severity: 'warning',
        title: 'Occlusion is in the base colour',
        message: `The base colour of ${material.key} darkens just where its occlusion map does, so corners darken twice.`,
        evidence: [
          `over 32 by 32 cells the two move together by ${percent(fit.correlation)}`,
          `a stop of occlusion goes with ${shown(fit.slope)} stops of base colour; 1 is a full multiplication`,
        ],
        mend: null,
        make: {
          materials: [material.key],
          recipe: 'remove-occlusion',
          params: { strength: 1, in: 'stored' },
        },
        safe: false,
        mendLabel: 'Remove it',
      }),
    ];
  });

function fitOf(base: MappedSlot, occlusion: MappedSlot) {
  const { component, invert } = occlusion.map;
  const part = partRead(component);
  const [light, dark] = [
    sketchPlane(base.facts?.sketch ?? '', 'luminance'),
    sketchPlane(occlusion.facts?.sketch ?? '', part),
  ];
  if (!light || !dark) return null;
  const log = (value: number) => Math.log(Math.max(BLACK, value));
  return fitLine(
    dark.map((value) => log(invert ? 1 - value : value)),
    light.map(log),
  );
}

function partRead(component: Component) {
  if (component === 'g') return 1;
  if (component === 'b') return 2;
  if (component === 'a') return 3;
  return component === 'luminance' ? 'luminance' : 0;
}
