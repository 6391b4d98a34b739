import { basename, dirname, join } from 'node:path';
import { initialState } from '@kinkajou/core/asset/asset';
import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { type ConvertOptions, convertAsset, parseParts, parseUnit } from '@kinkajou/core/convert';
import { replay } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import type { WrittenModel } from '@kinkajou/core/formats/written';
import type { OpenAsset } from '@kinkajou/core/inspect';
import { JOINED } from '@kinkajou/core/join/joinedFile';
import { objectChanges } from '@kinkajou/core/objectPatch';
import { extensionOf, folderOf, stemOf } from '@kinkajou/core/parcel/fileSource';
import { cleanName } from '@kinkajou/core/parcel/names';
import { patchModel, patchOfState } from '@kinkajou/core/patch';
import { addCollision, wantsCollision } from '@kinkajou/core/scene/collision';
import { type Loss, lossesInWords } from '@kinkajou/core/scene/loss';
import { onTurntable } from '@kinkajou/core/scene/turntable';
import { mendLevel, mendWithFacts } from './facts.ts';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';
import { partEdits, turnOf, withPartEdits, writeTakeoff } from './parts.ts';
import { isTaken, writeBeside } from './writeOut.ts';

interface CallOptions {
  search: string[];
  up?: string;
  unit?: string;
  triangulate?: boolean;
  embed?: boolean;
  only?: string;
  text?: boolean;
  splitLooks?: boolean;
  patch?: boolean;
  mend: string;
  replace?: boolean;
  json?: boolean;
  drop: string[];
  pivot?: string;
  turn?: string | true;
  collision?: string;
  takeoff?: string;
}

/** Writes the one model at a path as another format. */
export async function runConvert(
  path: string,
  out: string,
  call: CallOptions,
  output: Output,
): Promise<number> {
  const options = parseOptions(call);
  const folder = dirname(out);
  const { results, unreadable } = await withAssets(path, call.search, output, (asset) =>
    call.patch ? patchInPlace(asset, out, call, output) : convertChanged(asset, out, { ...options, call }),
  );
  if (results.length > 1)
    throw new KinkajouError(
      'call.models',
      `there are ${results.length} models in it`,
      { file: path },
      'Name one model file.',
    );
  const [{ files, losses: found }] = results;
  const losses = lossesInWords(found);
  await writeBeside({ folder, files, from: path, replace: call.replace === true });
  if (call.json)
    output.json({ files: [...files].map(([file, bytes]) => ({ file, bytes: bytes.length })), losses });
  else {
    for (const [file, bytes] of files)
      output.text(`${join(folder, file)}: ${bytes.length.toLocaleString('en')} bytes`);
    for (const loss of losses) output.text(`  ${loss}`);
  }
  return unreadable > 0 ? EXIT.errorsRemain : EXIT.done;
}

/**
 * Images of another model that lie there under the same names keep their places: this one's go into a folder
 * of its own.
 */
async function convertBeside(asset: OpenAsset, out: string, options: ConvertOptions): Promise<WrittenModel> {
  const name = basename(out);
  const written = await convertAsset(asset, name, options);
  for (const [file, bytes] of written.files)
    if (file.startsWith('maps/') && (await isTaken(join(dirname(out), file), bytes)))
      return convertAsset(asset, name, {
        ...options,
        mapsFolder: `${cleanName(stemOf(name), 'asset')}_maps`,
      });
  return written;
}

/** With parts changed as the call wants it; materials and maps are those of the file. */
async function convertChanged(
  asset: OpenAsset,
  out: string,
  { call, ...options }: ConvertOptions & { call: CallOptions },
): Promise<WrittenModel> {
  const edits = partEdits(asset, initialState(asset.source), call);
  const { state } = replay(asset.source, edits, asset.images);
  const { document, losses } = editedDocument(asset.document, state);
  if (call.takeoff) await writeTakeoff(call.takeoff, asset, state, call.replace === true);
  const seconds = turnOf(call);
  const shaped = wantsCollision(document, 'none')
    ? await addCollision(document, { shape: 'none' }, (part) => `${part}_collision`)
    : document;
  const whole = seconds > 0 ? onTurntable(shaped, { seconds }) : shaped;
  const written = await convertBeside({ ...asset, document: whole }, out, options);
  return { files: written.files, losses: [...losses, ...written.losses] };
}

/** Patches a copy of the model: images that are found are referred to where they lie, seen from the copy. */
async function patchInPlace(
  asset: OpenAsset,
  out: string,
  call: CallOptions,
  output: Output,
): Promise<WrittenModel> {
  const wantsParts = call.drop.length > 0 || call.pivot !== undefined;
  if (call.turn !== undefined || call.collision !== undefined)
    throw new KinkajouError(
      'call.patch',
      '--patch adds no turn and no collision',
      { file: out },
      'Convert without it.',
    );
  if (extensionOf(asset.source.model) === JOINED)
    throw new KinkajouError(
      'call.patch',
      'several models as one are no file to patch',
      { file: asset.source.model },
      'Patch each of them, or convert without it.',
    );
  const required = extensionOf(out);
  if (required !== extensionOf(asset.source.model))
    throw new KinkajouError(
      'call.patch',
      '--patch keeps the format',
      { file: out },
      `Give it the extension .${extensionOf(asset.source.model)}.`,
    );
  if (wantsParts && required !== 'fbx')
    throw new KinkajouError(
      'call.patch',
      '--patch changes parts of FBX files alone',
      { file: out },
      'Convert without it.',
    );
  // The copy refers to the images where they lie, so none are made.
  const mended = await mendWithFacts(asset, mendLevel(call.mend), output, { make: false });
  const { state } = withPartEdits(mended, partEdits(asset, mended.state, call));
  const objects = objectChanges(asset.document, state);
  if (wantsParts && objects.missed.length > 0)
    throw new KinkajouError('call.patch', objects.missed[0], { file: out }, 'Convert without --patch.');
  const folder = folderOf(asset.source.model);
  const within = (path: string) =>
    folder && path.startsWith(`${folder}/`) ? path.slice(folder.length + 1) : path;
  const { patch, missed } = patchOfState(asset, state, within);
  const patched = await patchModel(asset, patch, objects);
  const files = new Map<string, Uint8Array>();
  for (const [path, bytes] of patched.files)
    files.set(path === asset.source.model ? basename(out) : within(path), bytes);
  return {
    files,
    losses: [...missed, ...patched.missed].map((detail): Loss => ({ code: 'patch.missed', detail })),
  };
}

function parseOptions(call: CallOptions): ConvertOptions {
  const up = call.up?.toUpperCase();
  if (up !== undefined && up !== 'Y' && up !== 'Z')
    throw new KinkajouError('call.up', `--up is "${call.up}"; it takes Y or Z`);
  return {
    up,
    metresPerUnit: call.unit === undefined ? undefined : parseUnit(call.unit),
    triangulate: call.triangulate,
    embed: call.embed,
    only: call.only === undefined ? undefined : parseParts(call.only),
    text: call.text,
    splitLooks: call.splitLooks,
  };
}
