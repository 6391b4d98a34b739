import type {
  AlphaMode,
  Channel,
  ChannelName,
  ColourSpace,
  Component,
  NormalDirection,
} from '../scene/material.ts';
import type { Collision, PivotPlace } from '../scene/partChange.ts';

/** One pattern, or several of which any may fit. */
export type OneOrMore = string | string[];

/** What must hold; all of it, and of a list any. Nothing holds for every asset. */
export interface Conditions {
  /** The model file's name without folders and type. */
  asset?: OneOrMore;
  /** Name of the parcel, or of the folder on a disk. */
  parcel?: OneOrMore;
  /** The model file, by its name or its path. */
  file?: OneOrMore;
  format?: OneOrMore;
  /** What the file's header says of the program that wrote it. */
  writtenBy?: OneOrMore;
  part?: OneOrMore;
  /** A part above it. */
  group?: OneOrMore;
  material?: OneOrMore;
  /** File name of what the slot reads. */
  image?: OneOrMore;
  channel?: OneOrMore;
  space?: OneOrMore;
  /** Code of a finding. */
  finding?: OneOrMore;
  /** How sure it is what an image is, in 0..1: `">=0.9"`. */
  confidence?: OneOrMore;
  /** Longest side in metres: `">20"`. */
  size?: OneOrMore;
}

/** What a rule does where its conditions hold; in the words of the rulebook's file. */
export type Action =
  | { do: 'mend' }
  | { do: 'leave' }
  | { do: 'ask' }
  | { do: 'tag'; space: ColourSpace }
  | { do: 'link'; from: string; to: string }
  | { do: 'assign'; channel: ChannelName; component?: Component; invert?: boolean }
  | { do: 'normal'; normalY: NormalDirection }
  | { do: 'set'; channel: ChannelName; value: Channel['value'] }
  | { do: 'alpha'; mode?: AlphaMode; cutoff?: number }
  | { do: 'replaceMaterial'; with: string }
  | { do: 'renameMaterial'; to: string }
  | { do: 'numberMaterial'; number: number }
  | { do: 'drop' }
  | { do: 'renamePart'; to: string }
  | { do: 'giveMaterial'; material: string }
  | { do: 'pivot'; at: PivotPlace }
  | ({ do: 'collision' } & Collision)
  | {
      do: 'axes';
      up?: 'X' | 'Y' | 'Z';
      unit?: Unit;
      turn?: number | [number, number, number];
      scale?: number;
    }
  | { do: 'handOff'; to: OneOrMore };

/** Metres of the units that a rulebook may name. */
export const UNITS = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, ft: 0.3048 } as const;
/** One of {@link UNITS}. */
export type Unit = keyof typeof UNITS;

/** Conditions that must all hold, and what is done then, in order. */
export interface Rule {
  name: string;
  /** Why, for whoever reads the receipt. */
  reason?: string;
  when: Conditions;
  then: Action[];
}

/** A rulebook as its file holds it; rules apply in order. */
export interface Rulebook {
  rulebook: 1;
  title: string;
  rules: Rule[];
}
