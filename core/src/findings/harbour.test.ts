import { beforeAll, describe, expect, it } from 'vitest';
import { cargoFenders } from '../../../demo/src/cargoFenders.ts';
import { channelBuoy } from '../../../demo/src/channelBuoy.ts';
import { mooringStair } from '../../../demo/src/mooringStair.ts';
import { oilskinCoat } from '../../../demo/src/oilskinCoat.ts';
import { pilotBoat } from '../../../demo/src/pilotBoat.ts';
import { ropeNet } from '../../../demo/src/ropeNet.ts';
import type { DemoParcel } from '../../../demo/src/scene.ts';
import { signalFlags } from '../../../demo/src/signalFlags.ts';
import { stormLantern } from '../../../demo/src/stormLantern.ts';
import { initialState } from '../asset/asset.ts';
import { collectFacts } from '../asset/collectFacts.ts';
import { scanImages } from '../asset/scanImages.ts';
import { describeEdit } from '../edits/log.ts';
import { listModels, mendAsset, type OpenAsset, openAsset } from '../inspect.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { harbourParcel } from '../test/harbour.ts';
import { findFindings } from './checks.ts';
import type { Finding } from './finding.ts';

/** Findings of links, slots, colour, surface and transparency; each has a fender of its own. */
const CODES = [
  ...['missing', 'ambiguous', 'outside', 'caseOnly', 'unreadable', 'sidecar'].map((name) => `link.${name}`),
  'tiles.gap',
  'set.ambiguous',
  'map.unused',
  ...[
    'contradiction',
    'pixels',
    'packedWhole',
    'bumpAsNormal',
    'normalAsBump',
    'glossAsRoughness',
    'constant',
    'candidate',
  ].map((name) => `slot.${name}`),
  'normal.direction',
  'normal.notUnit',
  ...['tint', 'indexImplausible', 'metalHalf', 'emissionDark', 'heightTooStrong'].map(
    (name) => `surface.${name}`,
  ),
  ...['ignored', 'needless', 'maskWouldDo', 'oneSided', 'inverted'].map((name) => `alpha.${name}`),
  'glass.opaque',
  'glass.metal',
  ...['dataAsColour', 'colourAsData', 'encodedTwice', 'linearAsEncoded', 'albedoRange', 'mixedTags'].map(
    (name) => `colour.${name}`,
  ),
];

interface Opened {
  parcel: DemoParcel;
  assets: OpenAsset[];
  facts: Map<string, PixelFacts>;
}

async function open(parcel: DemoParcel): Promise<Opened> {
  const source = memorySource(parcel.id, parcel.files);
  const images = await scanImages(source);
  const { facts } = await collectFacts(images, (path) => source.read(path));
  const assets: OpenAsset[] = [];
  for (const model of listModels(source)) assets.push(await openAsset(source, model, undefined, images));
  return { parcel, assets, facts };
}

let harbour: Opened[];
let fenders: Opened;
beforeAll(async () => {
  harbour = [];
  for (const make of [
    stormLantern,
    channelBuoy,
    ropeNet,
    oilskinCoat,
    signalFlags,
    pilotBoat,
    mooringStair,
    cargoFenders,
  ])
    harbour.push(await open(await harbourParcel(make)));
  fenders = harbour[harbour.length - 1];
});

let fendersFindings: Finding[] | undefined;

/** Everything that is found in the fenders as they come; computed once. */
function ofFenders(): Finding[] {
  fendersFindings ??= fenders.assets.flatMap(({ source, images }) =>
    findFindings(source, initialState(source), images, { facts: fenders.facts }),
  );
  return fendersFindings;
}

describe('the harbour', () => {
  it('shows every fault that was put in, and no other', () => {
    for (const { parcel, assets, facts } of harbour) {
      for (const { source, images } of assets) {
        const found = findFindings(source, initialState(source), images, { facts }).map(
          ({ code, subject }) => `${code} ${subject}`,
        );
        const put = parcel.faults
          .filter(({ model }) => !model || model === source.model)
          .map(({ code, subject }) => `${code} ${subject}`);
        expect(found.sort(), source.model).toEqual(put.sort());
      }
    }
  });

  it('has a fender for every finding of links, slots and colour', () => {
    expect([...new Set(fenders.parcel.faults.map(({ code }) => code))].sort()).toEqual([...CODES].sort());
  });

  it('is mended: what had a mend is gone afterwards and brings nothing worse', () => {
    for (const { source, images } of fenders.assets) {
      const before = findFindings(source, initialState(source), images, { facts: fenders.facts });
      const { findings } = mendAsset(source, images, 'all', { facts: fenders.facts });
      const left = findings.map(({ code }) => code).filter((code) => code !== 'map.unused');
      expect(left, source.model).toEqual(
        before.filter(({ mend, code }) => !mend && code !== 'map.unused').map(({ code }) => code),
      );
    }
  });

  it('finds nothing new in good maps once they are linked', () => {
    for (const { parcel, assets, facts } of harbour.slice(0, 2)) {
      const [{ source, images }] = assets;
      const { findings, edits } = mendAsset(source, images, 'all', { facts });
      expect(
        findings
          .filter(({ severity }) => severity !== 'note')
          .map(({ code }) => code)
          .filter((code) => !code.startsWith('read.')),
        parcel.id,
      ).toEqual([]);
      expect(
        edits.filter((edit) => edit.kind === 'adjustSlots'),
        parcel.id,
      ).toEqual([]);
    }
  });

  it('mends safely only what has one outcome', () => {
    const doubtful = new Set([
      'colour.encodedTwice',
      'surface.tint',
      'surface.metalHalf',
      'surface.heightTooStrong',
      'alpha.ignored',
      'alpha.inverted',
      'glass.opaque',
    ]);
    for (const { code, safe, mend, subject } of ofFenders()) {
      if (code === 'link.ambiguous' || code === 'slot.pixels') expect(safe, code).toBe(false);
      else if (mend && !doubtful.has(code)) expect(safe, `${code} ${subject}`).toBe(true);
    }
  });

  it.each<[string, string, string, boolean, string | null]>([
    ['alpha.ignored', 'warning', 'surface', true, 'assignSlots'],
    ['alpha.inverted', 'warning', 'surface', false, 'adjustSlots'],
    ['alpha.maskWouldDo', 'warning', 'surface', true, 'setAlpha'],
    ['alpha.needless', 'warning', 'surface', true, 'setAlpha'],
    ['alpha.oneSided', 'note', 'surface', true, 'setAlpha'],
    ['colour.albedoRange', 'note', 'colour', false, null],
    ['colour.colourAsData', 'warning', 'colour', true, 'adjustSlots'],
    ['colour.dataAsColour', 'warning', 'colour', true, 'adjustSlots'],
    ['colour.encodedTwice', 'warning', 'colour', true, 'adjustSlots'],
    ['colour.linearAsEncoded', 'warning', 'colour', true, 'adjustSlots'],
    ['colour.mixedTags', 'warning', 'colour', true, 'adjustSlots'],
    ['glass.metal', 'warning', 'surface', true, 'setValues'],
    ['glass.opaque', 'warning', 'surface', false, 'setValues'],
    ['link.ambiguous', 'error', 'links', false, 'linkImages'],
    ['link.caseOnly', 'error', 'links', true, 'linkImages'],
    ['link.missing', 'error', 'links', false, null],
    ['link.outside', 'error', 'links', true, 'linkImages'],
    ['link.sidecar', 'note', 'links', false, null],
    ['link.unreadable', 'error', 'links', false, null],
    ['map.unused', 'note', 'links', false, null],
    ['normal.direction', 'warning', 'slots', true, 'adjustSlots'],
    ['normal.notUnit', 'warning', 'slots', true, 'adjustSlots'],
    ['set.ambiguous', 'warning', 'slots', false, null],
    ['slot.bumpAsNormal', 'error', 'slots', true, 'assignSlots'],
    ['slot.candidate', 'warning', 'slots', true, 'assignSlots'],
    ['slot.constant', 'note', 'slots', true, 'unmapSlots'],
    ['slot.contradiction', 'warning', 'slots', true, 'assignSlots'],
    ['slot.glossAsRoughness', 'error', 'slots', true, 'adjustSlots'],
    ['slot.normalAsBump', 'error', 'slots', true, 'assignSlots'],
    ['slot.packedWhole', 'warning', 'slots', true, 'assignSlots'],
    ['slot.pixels', 'warning', 'slots', false, null],
    ['surface.emissionDark', 'warning', 'surface', true, 'setValues'],
    ['surface.heightTooStrong', 'warning', 'surface', false, 'setValues'],
    ['surface.indexImplausible', 'warning', 'surface', true, 'setValues'],
    ['surface.metalHalf', 'note', 'surface', false, 'setValues'],
    ['surface.tint', 'warning', 'surface', false, 'setValues'],
    ['tiles.gap', 'error', 'links', false, null],
  ])(
    'tells of %s how bad it is, where it is settled, and whether one outcome is clear',
    (code, severity, step, safe, mend) => {
      const found = ofFenders().find((finding) => finding.code === code);
      expect({
        severity: found?.severity,
        step: found?.step,
        safe: found?.safe,
        mend: found?.mend?.kind ?? null,
      }).toEqual({ severity, step, safe, mend });
    },
  );

  it('points at the slot or the image that its mend changes', () => {
    let checked = 0;
    for (const { code, mend, target } of ofFenders()) {
      const slots =
        mend && 'slots' in mend ? mend.slots : mend?.kind === 'assignSlots' ? mend.assignments : [];
      const materials = mend?.kind === 'setAlpha' ? mend.materials : slots.map(({ material }) => material);
      for (const material of materials) {
        expect(material, code).toBe(target.material);
        checked += 1;
      }
      if (mend?.kind === 'linkImages')
        for (const { image } of mend.links) expect(image, code).toBe(target.image);
    }
    expect(checked).toBeGreaterThan(25);
  });
});

describe('the list of findings in docs/findings.md', () => {
  /** One of each kind, as the harbour shows it; the fenders' own number is left out. */
  function listed(): string {
    const examples = new Map<string, Finding>();
    for (const { assets, facts } of harbour)
      for (const { source, images } of assets)
        for (const finding of findFindings(source, initialState(source), images, { facts }))
          if (!examples.has(finding.code)) examples.set(finding.code, finding);
    const sections = [...examples.values()]
      .sort((a, b) => a.code.localeCompare(b.code, 'en'))
      .map(
        ({ code, step, severity, title, subject, message, evidence, mend, make, safe, mendLabel, choices }) =>
          [
            `## ${code}`,
            '',
            `**${title}** (${severity}, ${step}), of ${subject}: ${message}`,
            '',
            ...evidence.slice(0, 4).map((line) => `- ${line}`),
            ...(evidence.length > 4 ? [`- and ${evidence.length - 4} more`] : []),
            ...(evidence.length > 0 ? [''] : []),
            mend || make
              ? `${safe ? 'Mended by itself' : 'Mended when told to'}: ${mendLabel} (${mend ? describeEdit(mend) : 'new images'})`
              : choices
                ? `Asked: ${choices.map(({ label }) => label).join(', ')}`
                : 'A person decides.',
          ].join('\n'),
      );
    return `${[
      '# Findings',
      'Every kind of finding that the made-up harbour shows, with one example each. Written by a test of `core/src/findings`, which fails where a word of it changes.',
      ...sections,
    ].join('\n\n')}\n`;
  }

  it('is what is found, word for word', async () => {
    await expect(listed()).toMatchFileSnapshot('../../../docs/findings.md');
  });
});
