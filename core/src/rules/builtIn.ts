import type { Action, Conditions, Rule, Rulebook } from './rulebook.ts';

/**
 * Rulebooks that come with the application, by the word that calls them; the page copies them, the command
 * line takes the word.
 */
export const BUILT_IN_RULEBOOKS: Readonly<Record<string, Rulebook>> = {
  'colour-tags': book('Colour as each channel needs', [
    rule(
      'Data is no colour',
      'mend',
      { finding: ['colour.dataAsColour'] },
      'numbers of surfaces are read as they are stored',
    ),
    rule(
      'Colour is no data',
      'mend',
      { finding: ['colour.colourAsData', 'colour.encodedTwice', 'colour.linearAsEncoded'] },
      'pictures for the eye have a curve',
    ),
    rule(
      'One image, one tag',
      'mend',
      { finding: ['colour.mixedTags'] },
      'channels that read one image agree about it',
    ),
  ]),
  paths: book('Paths of other machines', [
    rule(
      'What surely is the file',
      'mend',
      { finding: ['link.missing', 'link.outside', 'link.caseOnly', 'link.sidecar'], confidence: '>=0.9' },
      'the best candidate is far ahead',
    ),
    rule(
      'Doubts are asked',
      'ask',
      { finding: ['link.missing', 'link.ambiguous'] },
      'two files might be meant',
    ),
  ]),
  palettes: book('Palettes stay palettes', [
    rule(
      'Faces upon one colour of a palette',
      'leave',
      { finding: ['shape.uvCollapsed'] },
      'UVs without area are what a palette is',
    ),
    rule(
      'Palettes are not filtered',
      'mend',
      { finding: ['palette.filtered'] },
      'neighbours in a palette are strangers',
    ),
  ]),
  shape: book('Parts in order', [
    rule('Nothing is inside out', 'mend', { finding: ['shape.insideOut'] }, 'closed bodies look outwards'),
    rule(
      'Normals are there and sound',
      'mend',
      { finding: ['shape.noNormals', 'shape.brokenNormals'] },
      'every corner is lit',
    ),
    rule(
      'Nothing lies about',
      'mend',
      { finding: ['part.empty', 'material.unused'] },
      'empty parts and unused materials carry nothing',
    ),
    rule(
      'One material for what is equal',
      'mend',
      { finding: ['material.doubled'] },
      'equal in all but the name',
    ),
    rule(
      'Every part has a name of its own',
      'mend',
      { finding: ['part.nameDoubled'] },
      'programs find parts by name',
    ),
  ]),
};

function book(title: string, rules: Rule[]): Rulebook {
  return { rulebook: 1, title, rules };
}

function rule(name: string, verdict: 'mend' | 'leave' | 'ask', when: Conditions, reason: string): Rule {
  const action: Action = { do: verdict };
  // biome-ignore lint/suspicious/noThenProperty: the rulebook's own word
  return { name, reason, when, then: [action] };
}
