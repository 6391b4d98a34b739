import { findDestination } from '@kinkajou/core/destinations/destinations';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { describe, expect, it } from 'vitest';
import { alterPackage, type Outcome } from './alterPackages.ts';

/** What has no effect on look or shape, or is one of several words for the same. */
const IDLE = {
  'web-gltf':
    /\/(scene|name|mimeType|minFilter|mode|interpolation|wrapS|wrapT|alphaMode|sampler|indices)$|targets|data output/,
  'compositor-usd':
    /outputs:|displayName|creator|upAxis|defaultPrim|kinkajouWrapper|Scope|wrap[ST]|sourceColorSpace|varname|connect|info:id|apiSchemas|extent|elementType|familyName|interpolation|TimeCode|pointIndices|scale = \(_, _, _, _\)/,
  'building-parts': /illum|- Kd|Ns _|- d |newmtl|^obj o |vn|^png /,
} as const;

/** A grey image has three components that are the same, of which one is read. */
const UNREAD = /: a component inverted$/;
const passed = (outcomes: readonly Outcome[], idle: RegExp) =>
  outcomes
    .filter(({ noticed, place, change }) => !noticed && ![place, change].some((words) => idle.test(words)))
    .filter(({ place }) => !UNREAD.test(place))
    .map(({ path, place, change }) => `${path} ${place}: ${change}`);

describe('packages of odd models in which one number or word is another', () => {
  it.each(Object.entries(IDLE))('are told from those that are whole (%s)', async (id, idle) => {
    const outcomes: Outcome[] = [];
    for (const seed of [300, 302])
      outcomes.push(...(await alterPackage(seed, findDestination(id) as Destination, 20)));
    expect(passed(outcomes, idle)).toEqual([]);
    expect(outcomes.filter(({ noticed }) => noticed).length).toBeGreaterThan(outcomes.length * 0.4);
  });
});
