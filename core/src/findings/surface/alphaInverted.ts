import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf } from '../slots/slotFinding.ts';
import { openOpacities } from './alphaUse.ts';
import { materialFinding } from './materialFinding.ts';

/**
 * Transparency read as opacity, or opacity inverted: what should be clear is solid, and the other way round.
 */
export const alphaInverted: Check = (context) =>
  openOpacities(context).flatMap((slot): Finding[] => {
    const { material, map, named, file } = slot;
    const reading = named?.readings.find(({ channel }) => channel === 'opacity');
    if (!reading || named?.packed || map.component === 'a' || reading.invert === map.invert) return [];
    const says = reading.invert ? 'transparency' : 'opacity';
    return [
      materialFinding(material, 'opacity', {
        code: 'alpha.inverted',
        severity: 'warning',
        title: 'Transparency the wrong way round',
        message: `${file?.path} says ${says} by its name, and ${material.key} reads it as ${map.invert ? 'transparency' : 'opacity'}.`,
        evidence: [...(named?.evidence ?? []), 'opacity = 1 - transparency'],
        mend: {
          kind: 'adjustSlots',
          slots: [addressOf(slot)],
          change: { invert: reading.invert },
          origin: { from: 'evidence', detail: `its name says ${says}` },
        },
        safe: false,
        mendLabel: 'Invert',
      }),
    ];
  });
