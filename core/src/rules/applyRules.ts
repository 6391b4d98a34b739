import { type AssetState, type CanonicalMaterial, type Edit, initialState } from '../asset/asset.ts';
import type { MakeRequest } from '../asset/makeMaps.ts';
import { replay } from '../edits/log.ts';
import { mendsOf } from '../edits/mends.ts';
import { overlap, touchesOf } from '../edits/touches.ts';
import { runChecks } from '../findings/checks.ts';
import { createContext } from '../findings/context.ts';
import { type Finding, needsPerson } from '../findings/finding.ts';
import { type Knowledge, NOTHING_KNOWN } from '../findings/knowledge.ts';
import { type OpenAsset, withImages } from '../inspect.ts';
import type { Provenance } from '../scene/material.ts';
import { editsFor } from './actions.ts';
import type { Action, Rule, Rulebook } from './rulebook.ts';
import { isAbout, meetsAsset, targetsOf } from './targets.ts';

/** A material that rules put in the place of others, with the images that it brings along. */
export interface BroughtMaterial {
  material: CanonicalMaterial;
  /** Content by the path that the material's maps call it by. */
  files: ReadonlyMap<string, Uint8Array>;
}

/** What rules may refer to outside the asset. */
export interface RuleSurroundings {
  /** Name of the parcel, or of the folder. */
  parcel: string;
  /**
   * A material by its name on the shelf, or by a file as the rulebook names it. Throws where there is none.
   */
  materialFor?(name: string, book: Rulebook): Promise<BroughtMaterial>;
  /** A folder as a rule writes it, as the source's paths have it; null where it is not among them. */
  folderFor?(written: string): string | null;
  knowledge?: Knowledge;
  /** What was done before, by hand or otherwise. */
  before?: readonly Edit[];
}

/** What a rule said of a finding; the first that fits wins. */
export interface Settled {
  verdict: 'mend' | 'leave' | 'ask';
  rule: string;
  rulebook: string;
}

/** Something that a person must decide, since a rule says so or would undo what a person did. */
export interface Asked {
  code: string;
  subject: string;
  rule: string;
  rulebook: string;
}

/** What one rule did. */
export interface RuleOutcome {
  rulebook: string;
  rule: string;
  edits: Edit[];
  settled: { code: string; subject: string; verdict: Settled['verdict'] }[];
}

/** What rules need of an asset: what is known of it, not its geometry. */
export type RuledParts = Pick<OpenAsset, 'source' | 'images' | 'read'>;

/** An asset after its rules, with what each of them did. */
export interface RuledAsset<Asset extends RuledParts = OpenAsset> {
  asset: Asset;
  edits: Edit[];
  state: AssetState;
  /** What rules said of findings, by their keys. */
  settled: ReadonlyMap<string, Settled>;
  asked: Asked[];
  outcomes: RuleOutcome[];
  /** New images that mends want, with the rule that wanted them. */
  makes: { request: MakeRequest; origin: Provenance }[];
  /** Destinations that rules hand the asset to. */
  handOffs: string[];
}

/** Code of what is asked where a rule would undo what a person did by hand. */
export const UNDOES_HAND = 'rule.undoesHand';

/**
 * Applies rulebooks to an asset: rules in order, each seeing what the ones before it did. The same input
 * gives the same edits.
 */
export async function applyRules<Asset extends RuledParts>(
  given: Asset,
  books: readonly Rulebook[],
  surroundings: RuleSurroundings,
): Promise<RuledAsset<Asset>> {
  const run = new RuleRun(given, surroundings);
  for (const book of books) for (const rule of book.rules) await run.apply(book, rule);
  return run.result();
}

class RuleRun<Asset extends RuledParts> {
  private asset: Asset;
  private edits: Edit[];
  private state: AssetState;
  private context: ReturnType<typeof createContext> | null = null;
  private found: Finding[] | null = null;
  private readonly settled = new Map<string, Settled>();
  private readonly asked: Asked[] = [];
  private readonly outcomes: RuleOutcome[] = [];
  private readonly makes: RuledAsset['makes'] = [];
  private readonly handOffs = new Set<string>();
  private readonly byHand: string[];
  private readonly surroundings: RuleSurroundings;

  constructor(asset: Asset, surroundings: RuleSurroundings) {
    const { before = [] } = surroundings;
    this.asset = asset;
    this.surroundings = surroundings;
    this.edits = [...before];
    this.byHand = before.filter(({ origin }) => origin.from === 'hand').flatMap(touchesOf);
    this.state =
      before.length > 0 ? replay(asset.source, before, asset.images).state : initialState(asset.source);
  }

  async apply(book: Rulebook, rule: Rule): Promise<void> {
    if (!meetsAsset(rule.when, this.contextNow(), this.surroundings.parcel)) return;
    const outcome: RuleOutcome = { rulebook: book.title, rule: rule.name, edits: [], settled: [] };
    const wantsFindings =
      rule.when.finding !== undefined ||
      rule.then.some((action) => action.do === 'mend' || action.do === 'leave' || action.do === 'ask');
    const targets = targetsOf(rule.when, this.contextNow(), wantsFindings ? this.findingsNow() : []);
    // A file that nothing reads yet can be assigned, and nothing else be done about it.
    const about = isAbout(rule.when, targets);
    for (const action of rule.then) {
      if (!about && action.do !== 'assign') continue;
      if (action.do === 'handOff') for (const to of [action.to].flat()) this.handOffs.add(to);
      else if (action.do === 'mend' || action.do === 'leave' || action.do === 'ask')
        this.settle(action.do, targets.findings, { book, rule, outcome });
      else this.add(await this.editsOf(action, targets, book, rule), outcome);
    }
    if (outcome.edits.length > 0 || outcome.settled.length > 0) this.outcomes.push(outcome);
  }

  result(): RuledAsset<Asset> {
    const { asset, edits, state, settled: decided, asked, outcomes, makes } = this;
    return { asset, edits, state, settled: decided, asked, outcomes, makes, handOffs: [...this.handOffs] };
  }

  private contextNow(): ReturnType<typeof createContext> {
    this.context ??= createContext(
      this.asset.source,
      this.state,
      this.asset.images,
      this.surroundings.knowledge ?? NOTHING_KNOWN,
    );
    return this.context;
  }

  private findingsNow(): Finding[] {
    this.found ??= runChecks(this.contextNow());
    return this.found;
  }

  /** Says of each finding that no rule has spoken of yet what becomes of it. */
  private settle(
    verdict: Settled['verdict'],
    findings: readonly Finding[],
    { book, rule, outcome }: { book: Rulebook; rule: Rule; outcome: RuleOutcome },
  ): void {
    const fresh = findings.filter(({ key }) => !this.settled.has(key));
    for (const { key, code, subject, mend, make } of fresh) {
      if (verdict === 'mend' && !mend && !make) continue;
      this.settled.set(key, { verdict, rule: rule.name, rulebook: book.title });
      outcome.settled.push({ code, subject, verdict });
      if (verdict === 'ask') this.asked.push({ code, subject, rule: rule.name, rulebook: book.title });
    }
    if (verdict !== 'mend') return;
    const { edits, makes } = mendsOf(fresh);
    this.add(
      edits.map((edit): Edit => ({ ...edit, origin: originOf(book, rule, edit.origin.detail) })),
      outcome,
    );
    for (const request of makes) this.makes.push({ request, origin: originOf(book, rule, request.recipe) });
  }

  private async editsOf(
    action: Action,
    targets: ReturnType<typeof targetsOf>,
    book: Rulebook,
    rule: Rule,
  ): Promise<Edit[]> {
    const { materialFor, folderFor } = this.surroundings;
    return editsFor(action, targets, this.contextNow(), {
      origin: originOf(book, rule, ''),
      world: {
        folderFor: (written) => (folderFor ? folderFor(written) : plainFolder(written)),
        materialFor: async (name) => {
          if (!materialFor) return null;
          const { material, files } = await materialFor(name, book);
          const lacking = new Map(
            [...files].filter(([path]) => !this.asset.images.some((image) => image.path === path)),
          );
          if (lacking.size > 0) this.asset = await withImages(this.asset, lacking);
          return material;
        },
      },
    });
  }

  /** Edits that would undo what a person did are asked for instead. */
  private add(edits: readonly Edit[], outcome: RuleOutcome): void {
    const free = edits.filter((edit) => {
      if (this.byHand.length === 0 || !overlap(touchesOf(edit), this.byHand)) return true;
      this.asked.push({
        code: UNDOES_HAND,
        subject: outcome.rule,
        rule: outcome.rule,
        rulebook: outcome.rulebook,
      });
      return false;
    });
    if (free.length === 0) return;
    outcome.edits.push(...free);
    this.edits = [...this.edits, ...free];
    this.state = replay(this.asset.source, this.edits, this.asset.images).state;
    this.context = null;
    this.found = null;
  }
}

function originOf(book: Rulebook, rule: Rule, detail: string): Provenance {
  return {
    from: 'rule',
    detail: rule.reason || detail || rule.name,
    rule: { rulebook: book.title, rule: rule.name },
  };
}

function plainFolder(written: string): string {
  return written
    .replaceAll('\\', '/')
    .replace(/^(\.?\/)+/, '')
    .replace(/\/+$/, '');
}

/**
 * What is left of an asset's findings: those that need a person and that no rule leaves, and whatever a rule
 * asks.
 */
export function leftOf(
  findings: readonly Finding[],
  decided: ReadonlyMap<string, Settled>,
  asked: readonly Asked[],
): { code: string; subject: string; rule: string | null }[] {
  const open = findings.flatMap(({ key, code, subject, severity }) => {
    const earlier = decided.get(key);
    if (earlier?.verdict === 'leave' || (earlier?.verdict !== 'ask' && !needsPerson({ severity }))) return [];
    return [{ code, subject, rule: earlier?.verdict === 'ask' ? earlier.rule : null }];
  });
  return [
    ...open,
    ...asked
      .filter(({ code }) => code === UNDOES_HAND)
      .map(({ code, subject, rule }) => ({ code, subject, rule })),
  ];
}
