import { channelInWords } from '../../scene/channelTitles.ts';
import type { ChannelName, Material } from '../../scene/material.ts';
import { colourValue, scalarValue } from '../../scene/material.ts';
import { createKeyer, type ModelPatch, type Patched } from '../patch.ts';
import { decodeText } from '../text.ts';
import { readObjects } from './objects.ts';
import { parseAsciiFbx } from './parseAscii.ts';
import { isBinaryFbx, parseBinaryFbx } from './parseBinary.ts';
import {
  changesNamesAlone,
  isEmptyObjectPatch,
  NO_OBJECTS,
  type ObjectPatch,
  patchObjects,
  renamedIds,
} from './patchObjects.ts';
import { channelOfProperty, readFbxMaterial } from './readMaterial.ts';
import { D, record, S } from './records.ts';
import { childOf, type FbxNode, type FbxTree, NAME_SEPARATOR, textAt } from './tree.ts';
import { writeAsciiFbx } from './writeAscii.ts';
import { writeBinaryFbx } from './writeBinary.ts';

/** Classic properties that hold a channel's value. */
const CLASSIC: Partial<Record<ChannelName, { name: string; type: string; colour: boolean }>> = {
  baseColor: { name: 'DiffuseColor', type: 'Color', colour: true },
  specularColor: { name: 'SpecularColor', type: 'Color', colour: true },
  emission: { name: 'EmissiveColor', type: 'Color', colour: true },
  bump: { name: 'BumpFactor', type: 'double', colour: false },
  height: { name: 'DisplacementFactor', type: 'double', colour: false },
};
/** Numbers by which classic colours are multiplied. */
const FACTORS: Partial<Record<ChannelName, string>> = {
  baseColor: 'DiffuseFactor',
  specularColor: 'SpecularFactor',
  emission: 'EmissiveFactor',
};
const PATH_RECORDS = ['FileName', 'Filename', 'RelativeFilename'];

/**
 * Changes image paths and material values of an FBX file and keeps every other record as it was. A binary
 * file is written anew from its records; in a text file only the texts themselves are exchanged. Throws the
 * parser's errors: a damaged file is not patched.
 */
export function patchFbx(
  bytes: Uint8Array,
  path: string,
  patch: ModelPatch,
  objects: ObjectPatch = NO_OBJECTS,
): Patched {
  const missed = [
    ...patch.alphas.map(() => 'FBX has no alpha mode'),
    ...patch.sides.map(() => 'FBX says nothing of sides per material'),
  ];
  const unsaid = missed.length;
  if (!isBinaryFbx(bytes)) {
    const text = new TextEncoder().encode(patchText(decodeText(bytes), patch, missed));
    if (patch.values.length > 0 && missed.length === unsaid)
      missed.push(...misread(parseAsciiFbx(text, path), patch, alphaModes(parseAsciiFbx(bytes, path))));
    const made = patchTextObjects(text, path, objects, missed);
    return { files: new Map([[path, made]]), missed: [...new Set(missed)] };
  }
  const tree = parseBinaryFbx(bytes, path);
  if (tree.fault) throw tree.fault;
  const section = tree.nodes.find((node) => node.name === 'Objects');
  const table = readObjects(tree);
  const alphaBefore = patch.values.length > 0 ? alphaModes(tree) : new Map();
  const paths = new Map(patch.images.map((image) => [image.written, image.path]));
  for (const object of section?.children ?? []) {
    if (object.name !== 'Texture' && object.name !== 'Video') continue;
    // A texture may leave its path to its video, so either record counts.
    const written = PATH_RECORDS.map((name) => textAt(childOf(object, name), 0)).filter(Boolean);
    const target = written.map((text) => paths.get(text)).find((text) => text !== undefined);
    if (target !== undefined) setPaths(object, target);
  }
  const keyOf = createKeyer();
  for (const { kind, name, node } of table.objects.values()) {
    if (kind !== 'Material') continue;
    const key = keyOf(name || 'material');
    for (const value of patch.values)
      if (value.material === key) setValue(node, value.channel, value.value, missed);
  }
  // What could not be written is told already.
  if (missed.length === unsaid) missed.push(...misread(tree, patch, alphaBefore));
  patchObjects(tree, objects, missed);
  return { files: new Map([[path, writeBinaryFbx(tree)]]), missed: [...new Set(missed)] };
}

/** How far a value may be read from what was written, for formulas on the way. */
const READ_APART = 1e-6;

/** Values that were written and are read otherwise, since the file says more of them elsewhere. */
function misread(tree: FbxTree, patch: ModelPatch, alphaBefore: ReadonlyMap<string, string>): string[] {
  if (patch.values.length === 0) return [];
  const materials = new Map(materialsIn(tree));
  const values = patch.values.flatMap(({ material, channel, value }) => {
    const read = materials.get(material)?.channels[channel]?.value;
    const expected = [value].flat();
    const same =
      read !== undefined &&
      [read].flat().length === expected.length &&
      [read].flat().every((component, k) => Math.abs(component - expected[k]) <= READ_APART);
    return same ? [] : [`${material} says ${channelInWords(channel)} in another place, too`];
  });
  const alphas = [...alphaModes(tree)].flatMap(([key, mode]) =>
    alphaBefore.get(key) === mode ? [] : [`${key} is set to ${mode} by its opacity`],
  );
  return [...values, ...alphas];
}

function alphaModes(tree: FbxTree): Map<string, string> {
  return new Map(materialsIn(tree).map(([key, { alphaMode }]) => [key, alphaMode]));
}

/** Materials of a file by their keys, as they are read. */
function materialsIn(tree: FbxTree): [string, Material][] {
  const table = readObjects(tree);
  const keyOf = createKeyer();
  return [...table.objects.values()]
    .filter(({ kind }) => kind === 'Material')
    .map((object) => [
      keyOf(object.name || 'material'),
      readFbxMaterial(object, table, (image) => ({ ...image, key: image.written }), []),
    ]);
}

function setPaths(object: FbxNode, path: string): void {
  for (const child of object.children) {
    if (PATH_RECORDS.includes(child.name)) child.properties = [S(path)];
    // Videos repeat their path among their properties.
    if (child.name === 'Properties70') {
      for (const entry of child.children)
        if (['Path', 'RelPath'].includes(textAt(entry, 0)))
          entry.properties = [...entry.properties.slice(0, -1), S(path)];
    }
  }
}

/**
 * Sets a value where the material states it: in a vendor's block, in the classic properties, or anew there.
 */
function setValue(
  node: FbxNode,
  channel: ChannelName,
  value: Parameters<typeof colourValue>[0],
  missed: string[],
): void {
  const block = childOf(node, 'Properties70') ?? childOf(node, 'Properties60');
  const place = CLASSIC[channel];
  if (!block) {
    missed.push(`a material without properties cannot be given ${channelInWords(channel)}`);
    return;
  }
  const skip = block.name === 'Properties60' ? 3 : 4;
  let changed = false;
  for (const entry of block.children) {
    const name = textAt(entry, 0);
    const vendor =
      name.includes('|') &&
      channelOfProperty(name) === channel &&
      !/map|tex|use|image|file/i.test(name.slice(name.lastIndexOf('|') + 1));
    if (!vendor && name !== place?.name) continue;
    const numbers = entry.properties.length - skip;
    const parts = numbers >= 3 ? [...colourValue(value), ...(numbers > 3 ? [1] : [])] : [scalarValue(value)];
    entry.properties = [...entry.properties.slice(0, skip), ...parts.map(D)];
    changed = true;
  }
  if (channel === 'opacity') {
    const transparency = 1 - scalarValue(value);
    upsert(block, { name: 'TransparencyFactor', type: 'Number', values: [transparency] }, skip);
    if (block.children.some((entry) => textAt(entry, 0) === 'TransparentColor') || transparency > 0)
      upsert(block, { name: 'TransparentColor', type: 'Color', values: [1, 1, 1] }, skip);
    if (block.children.some((entry) => textAt(entry, 0) === 'Opacity'))
      upsert(block, { name: 'Opacity', type: 'double', values: [scalarValue(value)] }, skip);
    changed = true;
  }
  // A factor beside the colour would be multiplied with what is set.
  const factor = FACTORS[channel];
  for (const entry of factor ? block.children.filter((entry) => textAt(entry, 0) === factor) : [])
    entry.properties = [...entry.properties.slice(0, skip), D(1)];
  if (changed) return;
  if (place)
    upsert(
      block,
      {
        name: place.name,
        type: place.type,
        values: place.colour ? colourValue(value) : [scalarValue(value)],
      },
      skip,
    );
  else missed.push(`FBX has no classic property for ${channelInWords(channel)}`);
}

interface ClassicValue {
  name: string;
  type: string;
  values: number[];
}

function upsert(block: FbxNode, { name, type, values }: ClassicValue, skip: number): void {
  const existing = block.children.find((entry) => textAt(entry, 0) === name);
  if (existing) existing.properties = [...existing.properties.slice(0, skip), ...values.map(D)];
  else
    block.children.push(
      record(skip === 4 ? 'P' : 'Property', [
        S(name),
        S(type),
        ...(skip === 4 ? [S('')] : []),
        S('A'),
        ...values.map(D),
      ]),
    );
}

function quoted(value: string): string {
  return value.replaceAll('"', '&quot;');
}

/**
 * Text files: names alone are exchanged in the lines that state them, since links are by number; whatever
 * else is to change needs the records, which are written anew.
 */
function patchTextObjects(
  bytes: Uint8Array,
  path: string,
  objects: ObjectPatch,
  missed: string[],
): Uint8Array {
  if (isEmptyObjectPatch(objects)) return bytes;
  const tree = parseAsciiFbx(bytes, path);
  if (tree.fault) throw tree.fault;
  if (tree.version < 7000 || !changesNamesAlone(objects)) {
    const before = missed.length;
    patchObjects(tree, objects, missed);
    return missed.length > before ? bytes : writeAsciiFbx(tree);
  }
  const names = renamedIds(readObjects(tree), objects);
  const text = decodeText(bytes).replace(
    /^([ \t]*(?:Model|Material): *(-?\d+), *"(?:Model|Material)::)[^"\n]*"/gm,
    (line, lead: string, id: string) => {
      const name = names.get(id);
      return name === undefined ? line : `${lead}${quoted(name)}"`;
    },
  );
  return new TextEncoder().encode(text);
}

/** Text files: quoted paths and numbers are exchanged where they stand. */
function patchText(given: string, patch: ModelPatch, missed: string[]): string {
  const relinked = new Map(patch.images.map(({ written, path }) => [quoted(written), quoted(path)]));
  const text = replaceBlocks(given, ['Texture', 'Video'], (block) => {
    const names = [...block.matchAll(/(?:FileName|Filename|RelativeFilename): "([^"\n]*)"/g)];
    const target = names.map(([, name]) => relinked.get(name)).find((path) => path !== undefined);
    if (target === undefined) return block;
    return block
      .replace(
        /((?:FileName|Filename|RelativeFilename): ")[^"\n]*"/g,
        (_, lead: string) => `${lead}${target}"`,
      )
      .replace(/(P: "(?:Path|RelPath)",[^\n]*, ?")[^"\n]*"$/gm, (_, lead: string) => `${lead}${target}"`);
  });
  const keyOf = createKeyer();
  return replaceBlocks(text, ['Material'], (block) => {
    const fullName = /^[^"\n]*"([^"\n]*)"/.exec(block)?.[1] ?? '';
    const key = keyOf(fullName.replace(/^Material::/, '').split(NAME_SEPARATOR)[0] || 'material');
    let changed = block;
    for (const { material, channel, value } of patch.values) {
      if (material !== key) continue;
      const place = CLASSIC[channel];
      const line =
        place && new RegExp(`((?:P|Property): "${place.name}",(?: *"[^"\\n]*",?){2,3}) *[-\\d.eE+, ]+$`, 'm');
      if (line?.test(changed))
        changed = changed.replace(
          line,
          `$1${(place?.colour ? colourValue(value) : [scalarValue(value)]).join(',')}`,
        );
      else
        missed.push(
          `${key} does not state ${channelInWords(channel)}, so it cannot be changed in a text file`,
        );
    }
    return changed;
  });
}

/** Each record of some types, to the brace that closes it, however its lines are indented. */
function replaceBlocks(text: string, types: readonly string[], change: (block: string) => string): string {
  const heads = new RegExp(`^[ \\t]*(?:${types.join('|')}): [^\\n]*\\{`, 'gm');
  let out = '';
  let done = 0;
  for (let head = heads.exec(text); head; head = heads.exec(text)) {
    const end = endOfBlock(text, head.index);
    out += text.slice(done, head.index) + change(text.slice(head.index, end));
    done = end;
    heads.lastIndex = end;
  }
  return out + text.slice(done);
}

/** Behind the brace that closes the first one that opens; braces in names and remarks are none. */
function endOfBlock(text: string, from: number): number {
  const marks = /"[^"\n]*"|;[^\n]*|[{}]/g;
  marks.lastIndex = from;
  let depth = 0;
  for (let mark = marks.exec(text); mark; mark = marks.exec(text)) {
    if (mark[0] === '{') depth += 1;
    else if (mark[0] === '}') depth -= 1;
    else continue;
    if (depth === 0) return marks.lastIndex;
  }
  return text.length;
}
