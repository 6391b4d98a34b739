import { join } from 'node:path';
import { initialState } from '@kinkajou/core/asset/asset';
import { makeMaps } from '@kinkajou/core/asset/makeMaps';
import { describeEdit } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import type { Params } from '@kinkajou/core/materials/recipes/recipe';
import { recipeOf } from '@kinkajou/core/materials/recipes/recipes';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';
import { writeBeside } from './writeOut.ts';

interface MakeOptions {
  material: string[];
  set: string[];
  out: string;
  search: string[];
  replace?: boolean;
  json?: boolean;
}

/**
 * Makes new images from materials' own by a recipe and writes them below `--out`; nothing else is touched.
 */
export async function runMake(
  recipeId: string,
  path: string,
  options: MakeOptions,
  output: Output,
): Promise<number> {
  const recipe = recipeOf(recipeId);
  const params = parseParams(options.set);
  const { results, unreadable } = await withAssets(path, options.search, output, async (asset) => {
    const state = initialState(asset.source);
    const materials = options.material.length > 0 ? options.material : state.materials.map(({ key }) => key);
    const made = await makeMaps({ materials, recipe: recipe.id, params }, state, asset.read, {
      limits: limitsFromEnvironment(),
    });
    const files = new Map(made.files.map(({ path: file, bytes }) => [file, bytes]));
    if (files.size > 0)
      await writeBeside({ folder: options.out, files, from: path, replace: options.replace === true });
    return { model: asset.source.model, made };
  });
  const reports = results.map(({ model, made: { files, edit, notes, refused } }) => ({
    model,
    files: files.map(({ path: file, channel, bytes }) => ({ file, channel, bytes: bytes.length })),
    edit,
    figures: notes.map(({ material, figures }) => ({ material, figures })),
    refused,
  }));
  if (options.json) output.json(reports.length === 1 ? reports[0] : { assets: reports });
  else
    for (const { model, files, edit, figures, refused } of reports) {
      output.text(`${model}: ${edit ? describeEdit(edit) : 'nothing was made'}`);
      for (const { file, bytes } of files)
        output.text(`  ${join(options.out, file)}: ${bytes.toLocaleString('en')} bytes`);
      for (const { material, figures: all } of figures)
        for (const { title, value, unit } of all)
          output.text(
            `  ${material}: ${title} ${Math.round(value * 100) / 100}${unit === '%' ? '%' : ` ${unit}`}`.trimEnd(),
          );
      for (const { material, reason } of refused) output.text(`  left out: ${material}, ${reason}`);
    }
  return unreadable > 0 ? EXIT.errorsRemain : EXIT.done;
}

/** `strength=2`, `in=light`. Throws `call.set` for anything without a value. */
function parseParams(words: readonly string[]): Params {
  return Object.fromEntries(
    words.map((word) => {
      const [key, value] = word.split('=', 2);
      if (!key || value === undefined || value === '')
        throw new KinkajouError('call.set', `--set is "${word}"; it takes name=value`);
      return [key, Number.isFinite(Number(value)) ? Number(value) : value];
    }),
  );
}
