import { describe, expect, it } from 'vitest';
import { groupedLines } from '../words.ts';
import type { Sheet, SheetMaterial } from './sheet.ts';
import { sheetPage } from './sheetPage.ts';

const oak: SheetMaterial = {
  key: 'Oak',
  name: 'Oak & <Tar>',
  copies: [],
  shading: 'metalRough',
  alpha: { mode: 'mask', cutoff: 0.33333333 },
  doubleSided: true,
  values: { roughness: 0.123456, baseColor: [1, 0.5, 0.25] },
  mapped: ['baseColor'],
  height: { amount: 0.02, unit: 'm', mid: 0.5 },
  maps: [
    {
      file: 'maps/Oak_ORM.png',
      colour: 'data, not colour',
      space: 'data',
      tag: 'Raw',
      depth: '8-bit PNG',
      channels: [
        { channel: 'occlusion', component: 'r', inverted: false },
        { channel: 'glossiness', component: 'g', inverted: true },
      ],
      from: {},
      palette: true,
    },
  ],
};

const sheet: Sheet = {
  handoff: 2,
  asset: 'Crate "7"',
  destination: { id: 'modelling', title: 'Modelling', summary: 'FBX, Y up' },
  models: ['crate.fbx'],
  upAxis: 'Z',
  metresPerUnit: 0.01,
  normalY: 'Y-',
  notes: ['Set the lights first'],
  losses: [],
  prepared: ['To spec/gloss: Oak'],
  unsaid: [],
  materials: [oak],
  takeoff: [],
};

const page = (more: Partial<Sheet> = {}, picture: Uint8Array | null = null) =>
  sheetPage({ ...sheet, ...more }, picture);

describe('the page of the sheet', () => {
  it('tells unit, axis and direction as they are', () => {
    expect(page()).toContain('<td>Z up, 0.01 m</td>');
    expect(page()).toContain('green points down (Y-)');
    expect(page({ normalY: 'Y+', upAxis: 'Y', metresPerUnit: 1 })).toContain('green points up (Y+)');
    expect(page({ upAxis: 'Y', metresPerUnit: 1 })).toContain('<td>Y up, 1 m</td>');
  });

  it('tells a material with its sides, transparency, values and components', () => {
    const text = page();
    expect(text).toContain('metalRough, mask, cut-off 0.3333, two sides.');
    expect(text).toContain(
      'roughness 0.1235; base colour 1 0.5 0.25 x map; height 0.02 m, 0.5 moves nothing',
    );
    expect(text).toContain('r: occlusion<br>g: glossiness, inverted');
    expect(text).toContain('data, not colour (&quot;Raw&quot;)<br>unfiltered, uncompressed');
    expect(
      page({ materials: [{ ...oak, doubleSided: false, alpha: { mode: 'opaque', cutoff: 0.5 } }] }),
    ).toContain('metalRough, opaque, one side.');
  });

  it('lists copies, six of them by name', () => {
    const copies = Array.from({ length: 8 }, (_, i) => `Oak_${i}`);
    expect(page({ materials: [{ ...oak, copies }] })).toContain(
      'One for each part: Oak_0, Oak_1, Oak_2, Oak_3, Oak_4, Oak_5 and 2 more.',
    );
    expect(page({ materials: [{ ...oak, copies: copies.slice(0, 6) }] })).toContain('Oak_5.');
  });

  it('lets nothing of a name become markup', () => {
    expect(page()).toContain('<h3>Oak &amp; &lt;Tar&gt;</h3>');
    expect(page()).toContain('<title>Crate &quot;7&quot; for Modelling</title>');
    expect(page()).not.toContain('<Tar>');
  });

  it('leaves out what there is nothing of', () => {
    const text = page();
    expect(text).toContain('<h2>To do by hand</h2>');
    expect(text).toContain('<li>To spec/gloss: Oak</li>');
    for (const title of ['Told here alone', 'Left behind', 'Areas and volumes'])
      expect(text).not.toContain(title);
    expect(page({ losses: ['Oak: the map of coat has no place'] })).toContain(
      '<li>Oak: the map of coat has no place</li>',
    );
    expect(page({}, Uint8Array.of(1, 2, 3))).toContain('src="data:image/png;base64,AQID"');
    expect(text).not.toContain('<img');
  });

  it('has areas and volumes, and says where the rest of many is', () => {
    const row = { part: 'Wall', material: 'Stone', faces: 6, area: 12.34567, volume: 1.23456 };
    const text = page({ takeoff: [row, { ...row, part: 'Net', volume: null }] });
    expect(text).toContain('<td>Wall</td><td>Stone</td><td>12.3457</td><td>1.235</td>');
    expect(text).toContain('<td>Net</td><td>Stone</td><td>12.3457</td><td>open</td>');
    expect(text).not.toContain('more rows');
    expect(page({ takeoff: new Array(403).fill(row) })).toContain('3 more rows are in takeoff.csv');
  });

  it('names several models', () => {
    expect(page()).toContain('<th>Model</th>');
    expect(page({ models: ['a.fbx', 'b.fbx'] })).toContain(
      '<th>Models</th><td><code>a.fbx</code><br><code>b.fbx</code></td>',
    );
  });
});

describe('lines that are true of several', () => {
  it('are told once from three on, with four names', () => {
    const lines = ['A', 'B', 'C', 'D', 'E', 'F'].map((name) => `${name}: no place`);
    expect(groupedLines(lines.slice(0, 2))).toEqual(['A: no place', 'B: no place']);
    expect(groupedLines(lines.slice(0, 3))).toEqual(['no place: A, B, C']);
    expect(groupedLines(lines)).toEqual(['no place: A, B, C, D and 2 more']);
    expect(groupedLines(['one', 'A: two'])).toEqual(['one', 'A: two']);
  });
});
