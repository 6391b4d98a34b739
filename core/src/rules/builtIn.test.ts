import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { mooringStair } from '../../../demo/src/mooringStair.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { harbourParcel } from '../test/harbour.ts';
import { applyRules } from './applyRules.ts';
import { BUILT_IN_RULEBOOKS } from './builtIn.ts';
import { parseRulebook } from './parseRulebook.ts';

describe('the built-in rulebooks', () => {
  it.each(Object.entries(BUILT_IN_RULEBOOKS))('%s is as sound as one from a file', (_, book) => {
    expect(parseRulebook(JSON.parse(JSON.stringify(book)))).toEqual(book);
  });

  it('link what surely is the file, and ask where nothing is sure', async () => {
    const bytes = (text: string) => new TextEncoder().encode(text);
    const png = new Uint8Array(
      await sharp({ create: { width: 4, height: 4, channels: 3, background: '#808080' } })
        .png()
        .toBuffer(),
    );
    const files = {
      'pier.obj': bytes(
        'mtllib pier.mtl\no Pier\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl Plank\nf 1/1 2/2 3/3\n',
      ),
      'pier.mtl': bytes(
        'newmtl Plank\nmap_Kd C:\\yard\\plank_basecolor.png\nmap_Pr C:\\yard\\plank_roughness.png\n',
      ),
      'maps/plank_basecolor.png': png,
    };
    const asset = await openAsset(memorySource('pier', files), 'pier.obj');
    const { edits, asked } = await applyRules(asset, [BUILT_IN_RULEBOOKS.paths], { parcel: 'pier' });
    expect(edits.map(({ kind, origin }) => [kind, origin.rule?.rule])).toEqual([
      ['linkImages', 'What surely is the file'],
    ]);
    expect(asked.map(({ code, rule }) => [code, rule])).toEqual([['link.missing', 'Doubts are asked']]);
  });

  it('mend what they speak of: the yard of faults, by shape, and leave its palette', async () => {
    const { files } = await harbourParcel(mooringStair);
    const asset = await openAsset(memorySource('stair', files), 'mooring-stair/yard.usda');
    const { outcomes, settled } = await applyRules(
      asset,
      [BUILT_IN_RULEBOOKS.shape, BUILT_IN_RULEBOOKS.palettes],
      { parcel: 'stair' },
    );
    const done = Object.fromEntries(
      outcomes.map(({ rule, edits }) => [
        rule,
        edits.map((edit) => (edit.kind === 'editParts' ? edit.change.do : edit.kind)),
      ]),
    );
    expect(done['Nothing is inside out']).toEqual(['turnFaces']);
    expect(done['Normals are there and sound']).toEqual(['normals', 'normals']);
    expect(done['One material for what is equal']).toEqual(['mergeMaterials']);
    expect(
      [...settled].filter(([, { verdict }]) => verdict === 'leave').map(([key]) => key.split(':')[0]),
    ).toEqual(['shape.uvCollapsed']);
  });
});
