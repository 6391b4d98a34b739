import { SECONDS } from './rigLot.ts';

/** What a second is in FBX. */
export const TICKS = 46186158000;

/** A text FBX of 7.4 in metres, Y up, that looks along Z. */
export function fbxText(
  objects: readonly string[],
  connections: readonly string[],
  definitions: readonly string[] = [],
): string {
  const axes = { UpAxis: 1, UpAxisSign: 1, FrontAxis: 2, FrontAxisSign: 1, CoordAxis: 0, CoordAxisSign: 1 };
  return [
    '; FBX 7.4.0 project file',
    'FBXHeaderExtension:  {',
    'FBXVersion: 7400',
    '}',
    'GlobalSettings:  {',
    'Properties70:  {',
    ...Object.entries(axes).map(([name, value]) => `P: "${name}", "int", "Integer", "",${value}`),
    'P: "UnitScaleFactor", "double", "Number", "",100',
    '}',
    '}',
    'Definitions:  {',
    ...definitions,
    '}',
    'Objects:  {',
    ...objects,
    '}',
    'Connections:  {',
    ...connections,
    '}',
    '',
  ].join('\n');
}

/** A list with its length. */
export function list(name: string, values: readonly number[]): string[] {
  return [`${name}: *${values.length} {`, `a: ${values.join(',')}`, '}'];
}

/** The keys of a curve at the seconds of a lot, straight from one to the next. */
export function straight(values: readonly number[]): string[] {
  return [
    'KeyVer: 4008',
    ...list(
      'KeyTime',
      SECONDS.map((second) => second * TICKS),
    ),
    ...list('KeyValueFloat', values),
    ...list('KeyAttrFlags', [4]),
    ...list('KeyAttrDataFloat', [0, 0, 0, 0]),
    ...list('KeyAttrRefCount', [SECONDS.length]),
  ];
}
