import { expect, it } from 'vitest';
import { TAKE_ALL } from '../scene/intake.ts';
import { testMaterial, testSource, testState } from '../test/assets.ts';
import { bare, files, look } from '../test/sets.ts';
import { findFindings } from './checks.ts';

/**
 * A material whose base colour was written as `path`, which is not there; these files lie in the parcel
 * instead.
 */
const lost = (path: string, ...paths: string[]) =>
  look({ materials: [testMaterial('Hull', { baseColor: path })], missing: [path], paths }).findings;

it('an image under its name elsewhere is told with where it was, and linked', () => {
  const reason = 'same name';
  const path = 'D:/art/hull_color.png';
  const [finding, ...more] = lost(path, 'maps/hull_color.png');
  expect(more).toEqual([]);
  expect(finding).toMatchObject({
    code: 'link.outside',
    step: 'links',
    severity: 'error',
    key: `link.outside:${path}`,
    title: 'Path leads elsewhere',
    subject: 'hull_color.png',
  });
  expect(finding.message).toBe(
    `Hull, base colour. ${path} holds on one machine only; maps/hull_color.png fits: ${reason}.`,
  );
  expect(finding.evidence[0]).toBe(`written as ${path}`);
  expect(finding.evidence[1]).toMatch(/^maps\/hull_color\.png: same name \(0\.\d\d\)$/);
  expect(finding.mend).toEqual({
    kind: 'linkImages',
    links: [{ image: path, path: 'maps/hull_color.png', reason }],
    origin: { from: 'evidence', detail: reason },
  });
  expect([finding.safe, finding.mendLabel, finding.choices]).toEqual([true, 'Link', undefined]);
  expect(finding.target).toEqual({ image: path, material: 'Hull', channel: 'baseColor' });
});

it('an image whose name differs in case alone is told so', () => {
  const reason = 'same name but for case or accents, same folder tex';
  expect(lost('tex/hull_color.png', 'tex/HULL_Color.png')).toEqual([
    {
      code: 'link.caseOnly',
      step: 'links',
      severity: 'error',
      key: 'link.caseOnly:tex/hull_color.png',
      title: 'Name differs in case or accents',
      subject: 'hull_color.png',
      message:
        'Hull, base colour. The file is called HULL_Color.png; systems that tell case and accents apart do not find it.',
      evidence: ['written as tex/hull_color.png', `tex/HULL_Color.png: ${reason} (0.93)`],
      mend: {
        kind: 'linkImages',
        links: [{ image: 'tex/hull_color.png', path: 'tex/HULL_Color.png', reason }],
        origin: { from: 'evidence', detail: reason },
      },
      safe: true,
      mendLabel: 'Link',
      target: { image: 'tex/hull_color.png', material: 'Hull', channel: 'baseColor' },
    },
  ]);
});

it('an image of a type that is not read says so', () => {
  expect(lost('tex/hull_color.jxl')).toMatchObject([
    {
      code: 'link.missing',
      message:
        'Hull, base colour. Images of type .jxl are not read; save it as PNG under the same name and upload that.',
    },
  ]);
});

it('an image that nothing fits has no mend, and says what to do', () => {
  expect(lost('tex/hull_color.png')).toEqual([
    {
      code: 'link.missing',
      step: 'links',
      severity: 'error',
      key: 'link.missing:tex/hull_color.png',
      title: 'Image not found',
      subject: 'hull_color.png',
      message: 'Hull, base colour. Nothing in the parcel fits; upload it or assign another image.',
      evidence: ['written as tex/hull_color.png'],
      mend: null,
      safe: false,
      mendLabel: '',
      target: { image: 'tex/hull_color.png', material: 'Hull', channel: 'baseColor' },
    },
  ]);
});

it('two sets that fit one material are one question, whose answers link what is lost', () => {
  const choice = (folder: string, version: string) => ({
    id: `${folder}|hull|`,
    label: 'hull',
    reason: 'the material "Hull" and the set "hull": the same name',
    images: [`${folder}/hull_colour_${version}.png`],
    edits: [
      {
        kind: 'linkImages',
        links: [
          {
            image: 'tex/hull_color.png',
            path: `${folder}/hull_colour_${version}.png`,
            reason: 'of the set "hull"',
          },
        ],
        origin: { from: 'hand', detail: 'the set "hull" was chosen for Hull' },
      },
    ],
  });
  expect(lost('tex/hull_color.png', 'a/hull_colour_v2.png', 'b/hull_colour_v3.png')).toEqual([
    {
      code: 'set.ambiguous',
      step: 'slots',
      severity: 'error',
      key: 'set.ambiguous:Hull',
      title: 'Which images belong here?',
      subject: 'Hull',
      message: '"hull" in a, "hull" in b may belong to Hull; choose one, and all its channels follow.',
      evidence: [
        'written as tex/hull_color.png',
        'hull (base colour): the material "Hull" and the set "hull": the same name (1.08)',
        'hull (base colour): the material "Hull" and the set "hull": the same name (1.08)',
      ],
      mend: null,
      safe: false,
      mendLabel: 'Choose',
      choices: [choice('a', 'v2'), choice('b', 'v3')],
      target: { material: 'Hull', image: 'a/hull_colour_v2.png' },
    },
  ]);
});

it('images of the set beside empty slots are one finding a material', () => {
  const detail = 'the material "Hull" and the set "hull": the same name';
  const assign = (channel: string, image: string, space: string) => ({
    material: 'Hull',
    channel,
    image,
    component: 'rgb',
    invert: false,
    space,
    normalY: 'Y+',
  });
  expect(look({ materials: bare('Hull'), paths: files('hull') }).findings).toEqual([
    {
      code: 'slot.candidate',
      step: 'slots',
      severity: 'warning',
      key: 'slot.candidate:Hull',
      title: 'Fitting images, empty slots',
      subject: 'Hull',
      message: '2 images, such as hull_color.png, could feed base colour and normal of Hull.',
      evidence: [
        detail,
        'hull_color.png: base colour, "color" in the name means base colour',
        'hull_normal.png: normal, "normal" in the name means normal',
      ],
      mend: {
        kind: 'assignSlots',
        assignments: [
          assign('baseColor', 'hull_color.png', 'srgb_rec709_scene'),
          assign('normal', 'hull_normal.png', 'data'),
        ],
        origin: { from: 'evidence', detail },
      },
      safe: true,
      mendLabel: 'Assign',
      target: { material: 'Hull', channel: 'baseColor', image: 'hull_color.png' },
    },
  ]);
});

it('images for the other shading model are offered as a whole, and what only the first has is emptied', () => {
  const material = testMaterial('Hull', {
    baseColor: 'hull_diffuse.png',
    metalness: 'hull_metallic.png',
    roughness: 'hull_roughness.png',
  });
  const paths = [
    'hull_diffuse.png',
    'hull_metallic.png',
    'hull_roughness.png',
    'hull_specular.png',
    'hull_glossiness.png',
  ];
  const found = look({ materials: [material], paths }).findings.find(
    ({ code }) => code === 'slot.otherModel',
  );
  const assign = (channel: string, image: string, component: string, space: string) => ({
    material: 'Hull',
    channel,
    image,
    component,
    invert: false,
    space,
    normalY: 'Y+',
  });
  expect(found).toEqual({
    code: 'slot.otherModel',
    step: 'slots',
    severity: 'note',
    key: 'slot.otherModel:Hull',
    title: 'Painted for both shading models',
    subject: 'Hull',
    message: 'Hull reads its images for metal/rough; those for spec/gloss lie beside them.',
    evidence: [
      'hull_diffuse.png: base colour',
      'hull_glossiness.png: glossiness',
      'hull_specular.png: specular colour',
    ],
    mend: null,
    safe: false,
    mendLabel: '',
    choices: [
      {
        id: '|hull||specGloss',
        label: 'Take spec/gloss',
        reason: '',
        images: ['hull_diffuse.png', 'hull_glossiness.png', 'hull_specular.png'],
        edits: [
          {
            kind: 'assignSlots',
            assignments: [
              assign('baseColor', 'hull_diffuse.png', 'rgb', 'srgb_rec709_scene'),
              assign('glossiness', 'hull_glossiness.png', 'r', 'data'),
              assign('specularColor', 'hull_specular.png', 'rgb', 'srgb_rec709_scene'),
            ],
            clears: [
              { material: 'Hull', channel: 'metalness' },
              { material: 'Hull', channel: 'roughness' },
            ],
            workflows: [{ material: 'Hull', workflow: 'specGloss', exponent: null }],
            origin: { from: 'hand', detail: 'the images for spec/gloss were chosen as a whole' },
          },
        ],
      },
    ],
    target: { material: 'Hull', channel: 'baseColor' },
  });
});

it.each([
  [{ metresPerUnit: 0.01 }, 'warning', 'Take: 0.01 m per unit'],
  [{ up: 'Z' as const }, 'warning', 'Take: Z up'],
  [{ scale: 2 }, 'note', 'Take: 2 times the size'],
])('an intake as the last one, %j, is a %s', (change, severity, words) => {
  const intake = { ...TAKE_ALL, ...change };
  const state = {
    ...testState([]),
    intake,
    intakeFrom: { from: 'rule' as const, detail: 'as the last one of Quayside 2' },
  };
  const choice = (id: string, label: string, reason: string, taken: typeof TAKE_ALL) => ({
    id,
    label,
    reason,
    images: [],
    edits: [{ kind: 'setIntake', choice: taken, origin: { from: 'hand', detail: label } }],
  });
  expect(findFindings(testSource(state), state, [])).toEqual([
    {
      code: 'intake.remembered',
      step: 'intake',
      severity,
      key: 'intake.remembered',
      title: 'Taken as the last one',
      subject: 'thing',
      message: `${words}, as the last one of Quayside 2.`,
      evidence: ['as the last one of Quayside 2'],
      mend: null,
      safe: false,
      mendLabel: '',
      choices: [
        choice('keep', 'Keep it so', words, intake),
        choice('stated', 'As the file states', 'Take everything as stated', TAKE_ALL),
      ],
      target: {},
    },
  ]);
});
