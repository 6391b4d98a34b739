// biome-ignore-all lint/suspicious/noThenProperty: the rulebook's own word

import { describe, expect, it } from 'vitest';
import type { Edit } from '../asset/asset.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { applyToLamp, lamp, part, rule, text } from '../test/ruleLamp.ts';
import { applyRules } from './applyRules.ts';
import { rulesFrom } from './fromEdits.ts';
import { parseRulebook } from './parseRulebook.ts';
import type { Action, Conditions } from './rulebook.ts';

describe('rules made of a log', () => {
  const origin = { from: 'hand' as const, detail: 'seen at the quay' };

  it('tell parts of one name apart, and otherwise go by the name that a part has by then', async () => {
    const pier = memorySource('Pier', { 'pier.obj': text(`${part('Pile', 'Oak')}${part('Rail', 'Oak')}`) });
    const asset = await openAsset(pier, 'pier.obj');
    const twins = {
      ...asset,
      source: {
        ...asset.source,
        nodes: asset.source.nodes.map((node, i) => ({
          ...node,
          name: 'Pile',
          key: i === 0 ? 'Pile' : 'Pile (2)',
        })),
      },
    };
    const { rulebook } = rulesFrom(
      [{ kind: 'editParts', change: { do: 'drop', parts: ['Pile (2)'] }, origin }],
      'One of two',
    );
    expect((await applyRules(twins, [rulebook], { parcel: '' })).edits).toMatchObject([
      { kind: 'editParts', change: { do: 'drop', parts: ['Pile (2)'] } },
    ]);
  });

  it('do again what it did, with numbers left open', async () => {
    const log: Edit[] = [
      {
        kind: 'linkImages',
        links: [
          { image: 'P:\\old\\tex\\iron_basecolor.png', path: 'textures/iron_basecolor.png', reason: '' },
        ],
        origin,
      },
      {
        kind: 'adjustSlots',
        slots: [{ material: 'Iron_rough', channel: 'roughness' }],
        change: { space: 'srgb_rec709_scene' },
        origin,
      },
      { kind: 'editParts', change: { do: 'drop', parts: ['Bolt_01'] }, origin },
      { kind: 'setValues', slots: [{ material: 'Pane_glass', channel: 'transmission' }], value: 1, origin },
      { kind: 'editParts', change: { do: 'group', parts: ['Pane'], name: 'x' }, origin },
    ];
    const { rulebook, without } = rulesFrom(log, 'From the lamp');
    expect(without).toEqual([{ kind: 'editParts', lacks: [] }]);
    expect(parseRulebook(rulebook).rules.map(({ when, then, reason }) => ({ when, then, reason }))).toEqual([
      { when: {}, then: [{ do: 'link', from: 'old/tex', to: 'textures' }], reason: 'seen at the quay' },
      {
        when: { channel: 'roughness', material: 'Iron_rough' },
        then: [{ do: 'tag', space: 'srgb_rec709_scene' }],
        reason: 'seen at the quay',
      },
      { when: { part: 'Bolt_*' }, then: [{ do: 'drop' }], reason: 'seen at the quay' },
      {
        when: { material: 'Pane_glass' },
        then: [{ do: 'set', channel: 'transmission', value: 1 }],
        reason: 'seen at the quay',
      },
    ]);
    const again = await applyRules(await lamp(), [rulebook], { parcel: '' });
    expect(again.edits.map(({ kind }) => kind)).toEqual([
      'linkImages',
      'adjustSlots',
      'editParts',
      'setValues',
    ]);
    expect(again.state.images.find(({ written }) => written.includes('iron_basecolor'))?.resolved).toBe(
      'textures/iron_basecolor.png',
    );
  });
});

describe('what a rule is about', () => {
  const handsOff = async (when: Conditions) =>
    (await applyToLamp([rule(when, { do: 'handOff', to: 'web-gltf' })])).handOffs.length > 0;

  it.each<[Conditions, boolean]>([
    [{}, true],
    [{ material: 'Iron*' }, true],
    [{ material: 'Brass*' }, false],
    [{ channel: 'roughness' }, true],
    [{ channel: 'coat' }, false],
    [{ part: 'Pane' }, true],
    [{ part: 'Rail' }, false],
    [{ image: 'pane_*' }, true],
    [{ image: 'rail_*' }, false],
    [{ finding: '*' }, true],
    [{ finding: 'shape.open' }, false],
  ])('%j: a destination is chosen only where something meets it', async (when, chosen) => {
    expect(await handsOff(when)).toBe(chosen);
  });

  it('leaves parts alone that were dropped before', async () => {
    const { edits } = await applyToLamp([
      rule({ part: 'Pane' }, { do: 'drop' }),
      rule({ part: 'Pane' }, { do: 'collision', shape: 'box' }),
    ]);
    expect(edits.map((edit) => edit.kind === 'editParts' && edit.change.do)).toEqual(['drop']);
  });

  it('says of alpha only what it names', async () => {
    const alpha = async (...then: Action[]) =>
      (await applyToLamp([rule({ material: 'Pane*' }, ...then)])).state.materials
        .filter(({ name }) => name === 'Pane_glass')
        .map(({ alphaMode, alphaCutoff }) => [alphaMode, alphaCutoff])[0];
    expect(await alpha({ do: 'alpha', mode: 'mask', cutoff: 0.3 })).toEqual(['mask', 0.3]);
    expect(await alpha({ do: 'alpha', mode: 'mask' })).toEqual(['mask', 0.5]);
    expect(await alpha({ do: 'alpha', cutoff: 0.3 })).toEqual(['opaque', 0.3]);
  });

  it('links images that are missing and that its slots read, and no others', async () => {
    const linked = async (when: Conditions) =>
      (
        await applyToLamp([rule(when, { do: 'link', from: 'P:/old/tex', to: 'textures' })], {
          folderFor: (to) => to,
        })
      ).edits;
    expect(
      (await linked({ material: 'Iron*' })).flatMap((edit) => (edit.kind === 'linkImages' ? edit.links : [])),
    ).toMatchObject([{ path: 'textures/iron_basecolor.png' }]);
    expect(await linked({ material: 'Pane*' })).toEqual([]);
  });
});
