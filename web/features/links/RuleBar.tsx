'use client';

import { usesOfImages } from '@kinkajou/core/asset/asset';
import { buildFileIndex } from '@kinkajou/core/links/fileIndex';
import {
  applyRule,
  learnRule,
  type PathRule,
  type RuleMatch,
  ruleInWords,
} from '@kinkajou/core/links/pathRules';
import { Spline } from 'lucide-react';
import { create } from 'zustand';
import { Button } from '@/ui/Button';
import { plural } from '@/ui/format';
import { type Bench, useBench } from '../bench/useBench.ts';

interface Proposal {
  /** The asset and the rule that a confirmed link taught. */
  asset: string;
  rule: PathRule;
}

interface Rules {
  proposal: Proposal | null;
  set(proposal: Proposal | null): void;
}

const useRules = create<Rules>()((set) => ({ proposal: null, set: (proposal) => set({ proposal }) }));

/** Remembers what a confirmed link teaches, so that it can be offered for the rest. */
export function teachRule(bench: Bench, written: string, path: string): void {
  const rule = learnRule(written, path);
  if (rule) useRules.getState().set({ asset: bench.view.id, rule });
}

/** What the proposed rule would settle now; empty when there is none. */
function matchesOf(bench: Bench, proposal: Proposal | null): RuleMatch[] {
  if (!proposal || proposal.asset !== bench.view.id) return [];
  const { state, images, further } = bench.view;
  const uses = usesOfImages(state);
  const missing = state.images.filter((image) => image.status === 'missing' && uses.has(image.key));
  return applyRule(
    proposal.rule,
    missing,
    buildFileIndex([...images, ...further].filter((image) => image.info)),
  );
}

/** Applies the proposed rule; false when there is none. */
export function applyProposal(bench: Bench): boolean {
  const { proposal, set } = useRules.getState();
  const matches = matchesOf(bench, proposal);
  if (!proposal || matches.length === 0) return false;
  const detail = ruleInWords(proposal.rule);
  bench.apply([
    {
      kind: 'linkImages',
      links: matches.map((match) => ({ ...match, reason: `path rule: ${detail}` })),
      origin: { from: 'rule', detail },
    },
  ]);
  set(null);
  return true;
}

/** Offers the path rule that the last link taught, with how many others it settles. */
export function RuleBar() {
  const bench = useBench();
  const { proposal, set } = useRules();
  const matches = matchesOf(bench, proposal);
  if (!proposal || matches.length === 0) return null;
  return (
    <div
      className="flex items-center gap-2 border-b border-[var(--line)] bg-[var(--honey-wash)] px-3 py-1.5 text-[12.3px]"
      role="status"
      data-testid="rule-bar"
    >
      <Spline size={14} className="shrink-0" />
      <span className="min-w-0 truncate" title={ruleInWords(proposal.rule)}>
        <b className="font-mono text-[11.5px]">{proposal.rule.from || 'the written folders'}</b>{' '}
        {proposal.rule.from ? 'lies' : 'lie'} in{' '}
        <b className="font-mono text-[11.5px]">{proposal.rule.to || 'the top folder'}</b>: settles{' '}
        {plural(matches.length, 'more path')}.
      </span>
      <span className="flex-1" />
      <Button main disabled={bench.busy} onClick={() => applyProposal(bench)}>
        Apply <kbd className="kbd kbd-xs font-mono">R</kbd>
      </Button>
      <Button onClick={() => set(null)}>Not now</Button>
    </div>
  );
}
