import { initialState, usesOfImages } from '../../asset/asset.ts';
import { isMade } from '../../asset/madeFiles.ts';
import type { Finding } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';

const SHOWN = 20;

/** Images of the parcel that no slot reads and that no empty slot waits for. */
export const mapUnused: Check = (context) => {
  const { source, state, own: ownFiles, sidecars } = context;
  const uses = usesOfImages(state);
  const spoken = new Set(sidecars.map(({ path }) => path));
  const unmapped = new Set(state.unmapped);
  for (const image of state.images) {
    if (!image.resolved || !(uses.has(image.key) || unmapped.has(image.key))) continue;
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
  const { fills, rewired, matching } = context.settlement();
  for (const { image } of [...fills, ...[...rewired.values()].flat()]) spoken.add(image);
  for (const { candidates } of matching.questions)
    for (const { set } of candidates) for (const { map } of set.members) spoken.add(map.path);
  // What a missing image may mean is the subject of its own finding.
  for (const path of candidatesOfMissing(context)) spoken.add(path);
  const unused = ownFiles
    .filter((image) => image.info && !isMade(image.path) && !spoken.has(image.path))
    .map((image) => image.path);
  if (unused.length === 0) return [];
  const required = isRequired(context);
  const maps = new Set(
    required ? context.sets().flatMap(({ members }) => members.map(({ map }) => map.path)) : [],
  );
  const [likely, rest] = [unused.filter((path) => maps.has(path)), unused.filter((path) => !maps.has(path))];
  return [...unusedFinding(source.name, likely, true), ...unusedFinding(source.name, rest, false)];
};

/** Whether a material that faces use has no image at all, so that what lies about may be meant for it. */
function isRequired({ source, state }: FindingContext): boolean {
  // Beside other models they are those models' own.
  if ((source.modelsAtHome ?? 1) > 1) return false;
  return state.materials.some(
    ({ key, channels }) =>
      (source.facesPerMaterial[key] ?? 0) > 0 && !Object.values(channels).some((channel) => channel?.map),
  );
}

function unusedFinding(subject: string, unused: readonly string[], likely: boolean): Finding[] {
  if (unused.length === 0) return [];
  const rest = unused.length - SHOWN;
  const counted =
    unused.length === 1
      ? `No slot reads ${unused[0]}`
      : `No slot reads ${unused.length} images, such as ${unused[0]}`;
  return [
    {
      code: 'map.unused',
      step: 'links',
      severity: likely ? 'warning' : 'note',
      key: likely ? 'map.unused:likely' : 'map.unused',
      title: likely ? 'Maps that went nowhere' : 'Images that nothing reads',
      subject,
      message: likely ? `${counted}, though materials without any image are there.` : `${counted}.`,
      evidence: [...unused.slice(0, SHOWN), ...(rest > 0 ? [`and ${rest} more`] : [])],
      mend: null,
      safe: false,
      mendLabel: '',
      target: { image: unused[0] },
    },
  ];
}

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
