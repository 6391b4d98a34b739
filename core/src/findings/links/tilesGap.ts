import { usesOfImages } from '../../asset/asset.ts';
import { holesIn, tilesInWords } from '../../links/tiles.ts';
import { writtenName } from '../../links/writtenPath.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';

/** A map in tiles that lacks some: an error where faces lie there, a note where only the row has a hole. */
export const tilesGap: Check = ({ source, state }) => {
  const uses = usesOfImages(state);
  return state.images.flatMap((image): Finding[] => {
    const slots = uses.get(image.key) ?? [];
    if (!image.tiles || slots.length === 0) return [];
    const there = new Set(image.tiles.map(({ number }) => number));
    const used = slots.flatMap(({ material }) => source.uvTiles?.[material] ?? []);
    const needed = [...new Set(used)].filter((number) => !there.has(number));
    const holes = needed.length > 0 ? needed : holesIn(image.tiles);
    if (holes.length === 0) return [];
    const name = writtenName(image.written);
    const words = `tile${holes.length === 1 ? '' : 's'} ${tilesInWords(holes)}`;
    return [
      {
        code: 'tiles.gap',
        step: 'links',
        severity: needed.length > 0 ? 'error' : 'note',
        key: `tiles.gap:${image.key}`,
        title: 'Tiles are missing',
        subject: name,
        message:
          needed.length > 0
            ? `${name} has no ${words}, where faces of ${slots[0].material} lie. Deliver ${holes.length === 1 ? 'it' : 'them'} or assign another image.`
            : `${name} has no ${words} between its others; no face lies there.`,
        evidence: [
          `there are ${tilesInWords([...there])}`,
          ...(used.length > 0 ? [`faces lie in ${tilesInWords([...new Set(used)])}`] : []),
        ],
        mend: null,
        safe: false,
        mendLabel: '',
        target: { image: image.key, material: slots[0].material, channel: slots[0].channel },
      },
    ];
  });
};
