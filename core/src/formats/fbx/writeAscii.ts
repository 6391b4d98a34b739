import { type FbxNode, type FbxProperty, type FbxTree, NAME_SEPARATOR } from './tree.ts';

/** Numbers on one line of an array before it is broken. */
const LINE_NUMBERS = 512;
const BASE64_LINE = 3 * 1024;
/** Top-level values; the text form has only sections there, which some readers count on. */
const BINARY_ONLY = new Set(['FileId', 'CreationTime', 'Creator']);

/** Writes a record tree as text FBX; the same tree always gives the same bytes. */
export function writeAsciiFbx(tree: FbxTree): Uint8Array {
  const version = `${Math.floor(tree.version / 1000)}.${Math.floor((tree.version % 1000) / 100)}.0`;
  const out: string[] = [
    `; FBX ${version} project file`,
    '; ----------------------------------------------------',
    '',
  ];
  for (const node of tree.nodes) if (!BINARY_ONLY.has(node.name)) writeNode(out, node, 0);
  return new TextEncoder().encode(`${out.join('\n')}\n`);
}

function writeNode(out: string[], node: FbxNode, depth: number): void {
  const indent = '\t'.repeat(depth);
  const [first] = node.properties;
  if (node.properties.length === 1 && isArray(first)) {
    const numbers = Array.from(first.value as ArrayLike<number | bigint>, numberText);
    out.push(`${indent}${node.name}: *${numbers.length} {`);
    for (let offset = 0; offset < numbers.length || offset === 0; offset += LINE_NUMBERS) {
      const line = numbers.slice(offset, offset + LINE_NUMBERS).join(',');
      const more = offset + LINE_NUMBERS < numbers.length ? ',' : '';
      out.push(`${offset === 0 ? `${indent}\ta: ` : ''}${line}${more}`);
    }
    out.push(`${indent}}`);
    return;
  }
  if (first?.type === 'R') {
    out.push(`${indent}${node.name}: ,`);
    out.push(...base64Lines(first.value));
    return;
  }
  const values = node.properties.map(propertyText);
  // The value part of a property entry follows without spaces, as everywhere.
  const head = `${indent}${node.name}: ${values.join(node.name === 'P' ? ',' : ', ')}`;
  if (node.children.length === 0 && node.properties.length > 0 && !node.name.startsWith('Animation')) {
    out.push(head);
    return;
  }
  out.push(`${head} {`);
  for (const child of node.children) writeNode(out, child, depth + 1);
  out.push(`${indent}}`);
}

function isArray(property: FbxProperty | undefined): boolean {
  return property !== undefined && ['f', 'd', 'l', 'i', 'b', 'c'].includes(property.type);
}

function numberText(value: number | bigint): string {
  return typeof value === 'bigint' ? value.toString() : String(value).replace('e+', 'e');
}

function propertyText(property: FbxProperty): string {
  switch (property.type) {
    case 'S':
      return `"${nameText(property.value)}"`;
    case 'C':
      return letterOf(property);
    case 'L':
      return property.value.toString();
    case 'Y':
    case 'I':
    case 'F':
    case 'D':
      return numberText(property.value);
    default:
      return '""';
  }
}

function letterOf(property: { type: 'Y' | 'C' | 'I' | 'F' | 'D'; value: number }): string {
  if (property.value === 1) return 'T';
  return property.value === 0 ? 'F' : String.fromCharCode(property.value);
}

/** `Hull\0\x01Model` is `Model::Hull` here; quotes and line ends are spelled out. */
function nameText(text: string): string {
  const index = text.indexOf(NAME_SEPARATOR);
  const joined = index < 0 ? text : `${text.slice(index + NAME_SEPARATOR.length)}::${text.slice(0, index)}`;
  return joined.replaceAll('"', '&quot;').replaceAll('\n', '&lf;').replaceAll('\r', '&cr;');
}

function base64Lines(bytes: Uint8Array): string[] {
  const lines: string[] = [];
  for (let offset = 0; offset < bytes.length; offset += BASE64_LINE) {
    const more = offset + BASE64_LINE < bytes.length ? ',' : '';
    lines.push(`"${Buffer.from(bytes.subarray(offset, offset + BASE64_LINE)).toString('base64')}"${more}`);
  }
  return lines;
}
