import { initialState, usesOfImages } from '../asset/asset.ts';
import { isMade } from '../asset/madeFiles.ts';
import type { Check } from './finding.ts';

const SHOWN = 20;

/** Images of the parcel that no slot reads and that no empty slot waits for. */
export const mapUnused: Check = (context) => {
  const { source, state, own, sidecars } = context;
  const uses = usesOfImages(state);
  const spoken = new Set(sidecars.map(({ path }) => path));
  for (const image of state.images) {
    if (!image.resolved || !uses.has(image.key)) continue;
    spoken.add(image.resolved);
    for (const tile of image.tiles ?? []) spoken.add(tile.path);
  }
  // What the model itself reads was of use; an edit may have put another image in its place.
  const written = usesOfImages(initialState(source));
  for (const image of state.images) {
    if (!image.resolved || !written.has(image.key)) continue;
    spoken.add(image.resolved);
    for (const tile of image.tiles ?? []) spoken.add(tile.path);
  }
  for (const { image } of context.suggestions()) spoken.add(image);
  // What a missing image may mean is the subject of its own finding.
  for (const path of candidatesOfMissing(context)) spoken.add(path);
  const unused = own.filter((image) => image.info && !isMade(image.path) && !spoken.has(image.path)).map((image) => image.path);
  if (unused.length === 0) return [];
  const rest = unused.length - SHOWN;
  return [
    {
      code: 'map.unused',
      step: 'links',
      severity: 'note',
      key: 'map.unused',
      title: 'Images that nothing reads',
      subject: source.name,
      message: unused.length === 1 ? `No slot reads ${unused[0]}.` : `No slot reads ${unused.length} images, such as ${unused[0]}.`,
      evidence: [...unused.slice(0, SHOWN), ...(rest > 0 ? [`and ${rest} more`] : [])],
      mend: null,
      safe: false,
      mendLabel: '',
      target: { image: unused[0] },
    },
  ];
};

function candidatesOfMissing({ state, index, candidatesOf }: Parameters<Check>[0]): string[] {
  return state.images
    .filter((image) => image.status === 'missing')
    .flatMap(candidatesOf)
    .flatMap(
      ({ path }) =>
        index
          .tileSets()
          .get(path)
          ?.tiles.map((tile) => tile.path) ?? [path],
    );
}
