import { KinkajouError } from '../errors.ts';
import { extensionOf, stemOf } from '../parcel/fileSource.ts';
import type { SceneDocument } from '../scene/document.ts';
import { writeFbx } from './fbx/writeFbx.ts';
import { writeObj } from './obj/writeObj.ts';
import { cleanIdentifier } from './usd/identifiers.ts';
import { splitLooks } from './usd/splitLooks.ts';
import { buildStage } from './usd/writeStage.ts';
import { writeUsda } from './usd/writeUsda.ts';
import { writeUsdc } from './usd/writeUsdc.ts';
import { writeUsdz } from './usd/writeUsdz.ts';
import type { TargetOf, WrittenModel } from './written.ts';

/** How a model is written; each format reads the options that are its own. */
export interface WriteOptions {
  creator?: string;
  targetOf?: TargetOf;
  /** Of FBX: binary unless told. */
  form?: 'binary' | 'text';
  version?: 7400 | 7500;
  /** Of USD: materials in a layer of their own, which the root takes in. */
  splitLooks?: boolean;
  /** Files that a package carries, by the path that materials refer to. */
  carried?: Map<string, Uint8Array>;
}

/**
 * Extensions that {@link writeModel} writes. glTF is written by the handoff, since its images must be packed.
 */
export const WRITABLE = ['fbx', 'obj', 'usd', 'usda', 'usdc', 'usdz'] as const;

/**
 * Writes a document in the format that the file name's extension says. Throws `model.format` for any other.
 */
export function writeModel(
  document: SceneDocument,
  fileName: string,
  options: WriteOptions = {},
): WrittenModel {
  const name = stemOf(fileName);
  const extension = extensionOf(fileName);
  switch (extension) {
    case 'fbx': {
      const { bytes, losses } = writeFbx(document, options);
      return { files: new Map([[fileName, bytes]]), losses };
    }
    case 'obj':
      return writeObj(document, { name, ...options });
    case 'usd':
    case 'usda':
    case 'usdc':
    case 'usdz':
      return writeUsd(document, fileName, options);
    default:
      throw new KinkajouError(
        'model.format',
        `models of type .${extension} cannot be written`,
        { file: fileName },
        'Write FBX, OBJ, USD or glTF.',
      );
  }
}

function writeUsd(document: SceneDocument, fileName: string, options: WriteOptions): WrittenModel {
  const name = stemOf(fileName);
  const extension = extensionOf(fileName);
  const { layer, losses } = buildStage(document, { name: cleanIdentifier(name, 'asset'), ...options });
  const encode = extension === 'usda' ? writeUsda : writeUsdc;
  if (extension === 'usdz') {
    const inside = new Map([[`${name}.usdc`, writeUsdc(layer)], ...(options.carried ?? [])]);
    return { files: new Map([[fileName, writeUsdz(inside)]]), losses };
  }
  if (!options.splitLooks) return { files: new Map([[fileName, encode(layer)]]), losses };
  const looks = `${name}.looks.${extension}`;
  const split = splitLooks(layer, looks);
  return {
    files: new Map([
      [fileName, encode(split.root)],
      [looks, encode(split.looks)],
    ]),
    losses,
  };
}
