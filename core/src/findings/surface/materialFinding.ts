import { splitWords } from '../../scene/channelWords.ts';
import type { ChannelName, Material } from '../../scene/material.ts';
import type { Finding, FindingText } from '../finding.ts';

/** A finding of the Surface step about one channel of a material. */
export function materialFinding(material: Material, channel: ChannelName, text: FindingText): Finding {
  return {
    ...text,
    step: 'surface',
    key: `${text.code}:${material.key}`,
    subject: material.key,
    target: { material: material.key, channel },
  };
}

/** A channel's value as one number, or the fallback where the material has no such channel. */
export function scalarOf(material: Material, channel: ChannelName, fallback: number): number {
  const value = material.channels[channel]?.value;
  if (value === undefined) return fallback;
  return typeof value === 'number' ? value : (value[0] + value[1] + value[2]) / 3;
}

/** A number as evidence shows it. */
export function shown(value: number): string {
  return String(Math.round(value * 1000) / 1000);
}

/** A length for people: two digits that count, in metres or millimetres. */
export function lengthInWords(metres: number): string {
  const rounded = (value: number) => String(Number(value.toPrecision(2)));
  return Math.abs(metres) >= 0.01 ? `${rounded(metres)} m` : `${rounded(metres * 1000)} mm`;
}

/** A share for people: two digits that count. */
export function shareInWords(share: number): string {
  return `${Number((share * 100).toPrecision(2))}%`;
}

const GLASS = new Set(['glass', 'pane', 'panes', 'window', 'windshield', 'windscreen', 'lens', 'crystal']);

/** The word of a material's name that says it is glass, or null. */
export function glassWord({ name }: Material): string | null {
  return splitWords(name).find((word) => GLASS.has(word)) ?? null;
}
