import { describe, expect, it } from 'vitest';
import { replay } from '../edits/log.ts';
import { detectMaps } from '../maps/detectMaps.ts';
import { testImage, testMaterial, testSource, testState } from '../test/assets.ts';
import { assignmentsOf, formEdits, formMaterials } from './formMaterials.ts';
import { tagChanges, tagEdits } from './repairTags.ts';
import { applyTemplate, learnTemplate, matchesPattern } from './templates.ts';

const origin = { from: 'hand' as const, detail: '' };
const detect = (paths: string[]) =>
  detectMaps(paths.map((path) => ({ path, info: testImage(path).info, facts: null })));

describe('tag repair', () => {
  const sRgb = 'srgb_rec709_scene' as const;
  const state = testState([
    testMaterial('Hull', {
      baseColor: { image: 'hull_color.png', space: 'data' },
      roughness: { image: 'hull_rough.png', space: sRgb },
      normal: 'hull_normal.png',
    }),
    testMaterial('Deck', {
      baseColor: { image: 'deck_color.exr', space: sRgb },
      opacity: { image: 'deck_color.exr', component: 'a', space: sRgb },
    }),
  ]);
  const images = [
    ...['hull_color.png', 'hull_rough.png', 'hull_normal.png'].map((path) => testImage(path)),
    testImage('deck_color.exr', { floating: true, bitDepth: 16 }),
  ];
  const detected = new Map(
    detectMaps(images.map(({ path, info }) => ({ path, info, facts: null }))).map((map) => [map.path, map]),
  );
  const changes = (keyword = '', slots: { material: string; channel: 'baseColor' }[] | null = null) =>
    tagChanges(state, images, detected, { to: 'channel', keyword, slots }).map(
      ({ material, channel, to }) => `${material} ${channel} ${to}`,
    );

  it('gives each channel what it needs and passes alpha over', () => {
    expect(changes()).toEqual([
      'Hull baseColor srgb_rec709_scene',
      'Hull roughness data',
      'Deck baseColor lin_rec709_scene',
    ]);
  });

  it('keeps to a word in the names and to the selection', () => {
    expect(changes('ROUGH')).toEqual(['Hull roughness data']);
    expect(changes('', [{ material: 'Deck', channel: 'baseColor' }])).toEqual([
      'Deck baseColor lin_rec709_scene',
    ]);
    // An image that is linked goes by its own name, a missing one by what was written.
    const linked = testState([testMaterial('Hull', { roughness: { image: 'old/rough.png', space: sRgb } })]);
    const repaired = (keyword: string, resolved: string | null) => {
      const [image] = linked.images;
      const moved = { ...linked, images: [{ ...image, written: 'old/rough.png', resolved }] };
      return tagChanges(moved, images, detected, { to: 'channel', keyword, slots: null }).length;
    };
    expect([repaired('rough', 'tex/glossy.png'), repaired('glossy', 'tex/glossy.png')]).toEqual([0, 1]);
    expect([repaired('rough', null), repaired('glossy', null)]).toEqual([1, 0]);
  });

  it('is one edit per space, after which nothing is left to change', () => {
    const edits = tagEdits(
      tagChanges(state, images, detected, { to: 'channel', keyword: '', slots: null }),
      origin,
    );
    expect(edits).toHaveLength(3);
    const after = replay(testSource(state), edits, images).state;
    expect(tagChanges(after, images, detected, { to: 'channel', keyword: '', slots: null })).toEqual([]);
  });
});

describe('sets that form materials', () => {
  const maps = detect([
    'crane_basecolor.png',
    'crane_roughness.png',
    'hook_orm.png',
    'hook_albedo.png',
    'planks.jpg',
  ]);

  it('make one material per set, filled by what each image is', () => {
    const formed = formMaterials(maps, [testMaterial('Hook')]);
    expect(
      formed.map(({ name, isNew, assignments }) => [
        name,
        isNew,
        assignments.map((one) => `${one.channel} ${one.component}`),
      ]),
    ).toEqual([
      ['Crane', true, ['baseColor rgb', 'roughness r']],
      ['Hook', false, ['occlusion r', 'roughness g', 'metalness b', 'baseColor rgb']],
      ['Planks', true, ['baseColor rgb']],
    ]);
    const edits = formEdits(formed, origin);
    expect(edits[0]).toMatchObject({
      kind: 'addMaterials',
      materials: [{ name: 'Crane' }, { name: 'Planks' }],
    });
  });

  it('read glossiness as inverted roughness, unless roughness is there', () => {
    expect(assignmentsOf('Any', detect(['a_gloss.png', 'a_basecolor.png']))).toContainEqual(
      expect.objectContaining({ channel: 'roughness', image: 'a_gloss.png', invert: true }),
    );
    const both = assignmentsOf('Any', detect(['a_glossiness.png', 'a_roughness.png']));
    expect(both).toHaveLength(1);
  });
});

describe('templates', () => {
  const crane = testMaterial('Crane', {
    baseColor: 'crane_basecolor.png',
    roughness: { image: 'crane_orm.png', component: 'g', invert: true },
    occlusion: { image: 'crane_orm.png', component: 'r' },
  });
  const state = testState([crane, testMaterial('Hook'), testMaterial('Winch')]);
  const template = learnTemplate(crane, state);

  it('find each file again by the set of the material', () => {
    const maps = detect([
      'crane_basecolor.png',
      'crane_orm.png',
      'hook_basecolor.png',
      'hook_orm.png',
      'winch_basecolor.png',
    ]);
    const { edit, unresolved } = applyTemplate(
      template,
      state.materials.slice(1),
      { state, detected: maps },
      origin,
    );
    expect(
      edit?.kind === 'pasteSlots' &&
        edit.slots.map(({ material, channel, content }) => [
          material,
          channel,
          content?.map?.image,
          content?.map?.component,
          content?.map?.invert,
        ]),
    ).toEqual([
      ['Hook', 'baseColor', 'parcel:hook_basecolor.png', 'rgb', false],
      ['Hook', 'roughness', 'parcel:hook_orm.png', 'g', true],
      ['Hook', 'occlusion', 'parcel:hook_orm.png', 'r', false],
      ['Winch', 'baseColor', 'parcel:winch_basecolor.png', 'rgb', false],
    ]);
    expect(unresolved).toEqual(['Winch, roughness', 'Winch, occlusion']);
  });

  it('relink every slot for decorated names, packed images and other words for the channels', () => {
    const hull = testMaterial('M_Hull', {
      baseColor: 'hull/T_Hull_BaseColor.png',
      roughness: { image: 'hull/T_Hull_ORM.png', component: 'g' },
      metalness: { image: 'hull/T_Hull_ORM.png', component: 'b' },
      normal: { image: 'hull/T_Hull_Normal.png', normalY: 'Y-' },
    });
    const paths = ['hull/T_Hull_BaseColor.png', 'hull/T_Hull_ORM.png', 'hull/T_Hull_Normal.png'];
    const others = [
      'deck/T_UpperDeck_Albedo.tga',
      'deck/T_UpperDeck_ORM.tga',
      'deck/T_UpperDeck_Nrm.tga',
      'mast/T_Mast_Albedo.tga',
    ];
    const maps = detect([...paths, ...others]);
    const boat = testState([hull, testMaterial('M_UpperDeck_wet'), testMaterial('M_Mast')]);
    const { edit, unresolved } = applyTemplate(
      learnTemplate(hull, boat, maps),
      boat.materials.slice(1),
      { state: boat, detected: maps },
      origin,
    );
    const filled =
      edit?.kind === 'pasteSlots'
        ? edit.slots.map(({ material, channel, content }) => `${material} ${channel} ${content?.map?.image}`)
        : [];
    expect(filled).toEqual([
      'M_UpperDeck_wet baseColor parcel:deck/T_UpperDeck_Albedo.tga',
      'M_UpperDeck_wet roughness parcel:deck/T_UpperDeck_ORM.tga',
      'M_UpperDeck_wet metalness parcel:deck/T_UpperDeck_ORM.tga',
      'M_UpperDeck_wet normal parcel:deck/T_UpperDeck_Nrm.tga',
      'M_Mast baseColor parcel:mast/T_Mast_Albedo.tga',
    ]);
    expect(unresolved).toEqual(['M_Mast, roughness', 'M_Mast, metalness', 'M_Mast, normal']);
  });

  it('take the delivery that fills most, and the last free set for the last material', () => {
    const words = ['diffuse', 'specular', 'glossiness'];
    const hull = testMaterial('Hull', {
      baseColor: 'specgloss/hull_diffuse.png',
      specularColor: 'specgloss/hull_specular.png',
      glossiness: 'specgloss/hull_glossiness.png',
    });
    const maps = detect([
      ...words.flatMap((word) => [`specgloss/hull_${word}.png`, `specgloss/planks_${word}.png`]),
      ...['basecolor', 'metallic', 'roughness'].map((word) => `metalrough/planks_${word}.png`),
    ]);
    const boat = testState([hull, testMaterial('Deck')]);
    const { edit, unresolved } = applyTemplate(
      learnTemplate(hull, boat, maps),
      [boat.materials[1]],
      { state: boat, detected: maps },
      origin,
    );
    const images = edit?.kind === 'pasteSlots' ? edit.slots.map(({ content }) => content?.map?.image) : [];
    expect([images, unresolved]).toEqual([words.map((word) => `parcel:specgloss/planks_${word}.png`), []]);
  });

  it('take the image that is called alike before others for the channel, of the same type before another', () => {
    const told = (paths: string[]) => {
      const state = testState([testMaterial('Hull', { roughness: 'hull_rough.png' }), testMaterial('Deck')]);
      const maps = detect(['hull_rough.png', ...paths]);
      const { edit, unresolved } = applyTemplate(
        learnTemplate(state.materials[0], state, maps),
        [state.materials[1]],
        { state, detected: maps },
        origin,
      );
      return edit?.kind === 'pasteSlots' ? edit.slots.map(({ content }) => content?.map?.image) : unresolved;
    };
    expect(told(['deck_roughness.png', 'deck_rough.png'])).toEqual(['parcel:deck_rough.png']);
    expect(told(['deck_rough.tga', 'deck_rough.png'])).toEqual(['parcel:deck_rough.png']);
    expect(told(['deck_rough.tga'])).toEqual(['parcel:deck_rough.tga']);
    expect(told(['deck_roughness.png'])).toEqual(['parcel:deck_roughness.png']);
    expect(told(['deck_normal.png'])).toEqual(['Deck, roughness']);
  });

  it('choose the set that fills most among those of one name', () => {
    const hull = testMaterial('Hull', { baseColor: 'hull_color.png', roughness: 'hull_rough.png' });
    const state = testState([hull, testMaterial('Deck')]);
    const maps = detect([
      'hull_color.png',
      'hull_rough.png',
      'a/deck_color.png',
      'b/deck_color.png',
      'b/deck_rough.png',
    ]);
    const { edit } = applyTemplate(
      learnTemplate(hull, state, maps),
      [state.materials[1]],
      { state, detected: maps },
      origin,
    );
    expect(edit?.kind === 'pasteSlots' && edit.slots.map(({ content }) => content?.map?.image)).toEqual([
      'parcel:b/deck_color.png',
      'parcel:b/deck_rough.png',
    ]);
  });

  it.each([
    ['hull_*', 'Hull_deck', true],
    ['hull_*', 'old_hull_deck', false],
    ['deck', 'Hull deck', true],
    ['h?ll', 'hull', true],
    ['', 'anything', true],
    ['a.b', 'axb', false],
  ])('pattern %s against %s: %s', (pattern, name, fits) => {
    expect(matchesPattern(pattern, name)).toBe(fits);
  });
});
