import { Lot } from '../fuzz/lot.ts';
import { binaryFbx } from './binaryFbx.ts';
import { fbxLooks } from './fbxLooks.ts';
import { fbxRigs } from './fbxRigs.ts';
import { fbxViews } from './fbxViews.ts';
import { glossLooks } from './glossLooks.ts';
import { editedLooks, gltfLooks } from './gltfLooks.ts';
import { gltfRigs } from './gltfRigs.ts';
import { gltfViews } from './gltfViews.ts';
import { mtlLooks } from './mtlLooks.ts';
import { mtlxLooks } from './mtlxLooks.ts';
import type { KnownPlaces } from './places.ts';
import type { Known } from './soup.ts';
import { strangeFbxText } from './strangeFbxText.ts';
import { strangeGltf } from './strangeGltf.ts';
import { strangeObj } from './strangeObj.ts';
import { strangeUsd } from './strangeUsd.ts';
import { usdLooks } from './usdLooks.ts';
import { usdRigs } from './usdRigs.ts';
import { usdViews } from './usdViews.ts';
import type { KnownViews } from './views.ts';

/** A text FBX of one kind or another, in the binary form. */
function inBinary(seed: number): Known | KnownPlaces {
  const lot = new Lot(seed);
  const known = lot.pick([strangeFbxText, fbxLooks, fbxRigs])(seed);
  const text = new TextDecoder().decode(known.files[known.model]);
  return { ...known, files: { ...known.files, [known.model]: binaryFbx(text, lot) } };
}

/** Who makes up a model of a format, with what is in it. */
export const MAKERS: Record<string, (seed: number) => Known | KnownPlaces | KnownViews> = {
  fbx: strangeFbxText,
  'fbx-binary': inBinary,
  'fbx-looks': fbxLooks,
  'fbx-rigs': fbxRigs,
  'fbx-views': fbxViews,
  gltf: strangeGltf,
  'edited-looks': editedLooks,
  'gloss-looks': glossLooks,
  'gltf-looks': gltfLooks,
  'gltf-rigs': gltfRigs,
  'gltf-views': gltfViews,
  'mtl-looks': mtlLooks,
  'mtlx-looks': mtlxLooks,
  obj: strangeObj,
  usd: strangeUsd,
  'usd-looks': usdLooks,
  'usd-rigs': usdRigs,
  'usd-views': usdViews,
};
