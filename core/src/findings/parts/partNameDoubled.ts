import type { Edit } from '../../asset/asset.ts';
import type { Part } from '../../asset/parts.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { capped, counted, partFinding } from './partFinding.ts';

/**
 * Parts of one name, or without any: edits, rules and engines go by names. A part of the name of what it hangs on is no
 * fault, since many writers name a mesh as its node; nor are equal names in different places of USD, whose paths tell them
 * apart.
 */
export const partNameDoubled: Check = ({ parts, source }) => {
  const all = parts();
  const byKey = new Map(all.map((part) => [part.key, part]));
  const groups = new Map<string, Part[]>();
  for (const part of all) {
    if (part.dropped || part.kind === 'bone') continue;
    const name = source.format === 'usd' ? JSON.stringify([part.parent, part.name]) : part.name;
    groups.set(name, [...(groups.get(name) ?? []), part]);
  }
  const taken = new Set(all.map(({ name }) => name));
  const findings: Finding[] = [];
  for (const group of groups.values()) {
    const [first, ...others] = group.filter((part) => !group.includes(byKey.get(part.parent ?? '') as Part));
    const again = first?.name === '' ? [first, ...others] : others;
    if (!first || again.length === 0) continue;
    const names = again.map((part) => ({ part: part.key, name: freeName(first.name || part.kind, taken) }));
    const mend: Edit = { kind: 'editParts', change: { do: 'rename', names }, origin: { from: 'evidence', detail: 'names tell parts apart' } };
    findings.push(
      partFinding(again[0], {
        code: 'part.nameDoubled',
        severity: 'note',
        title: first.name === '' ? 'No name' : 'Name comes twice',
        message:
          first.name === ''
            ? `${counted(again.length, 'part has', 'parts have')} no name.`
            : `${first.name}: ${counted(group.length, 'part', 'parts')} of this name; what goes by names cannot tell them apart.`,
        evidence: group.slice(0, 20).map(({ key }) => key),
        mend,
        safe: false,
        mendLabel: again.length === 1 ? `Rename to ${names[0].name}` : `Rename ${again.length} of them`,
      }),
    );
  }
  return capped(findings);
};

function freeName(name: string, taken: Set<string>): string {
  let count = 2;
  while (taken.has(`${name}_${count}`)) count += 1;
  taken.add(`${name}_${count}`);
  return `${name}_${count}`;
}
