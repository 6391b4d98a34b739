'use client';

import { hasMend } from '@kinkajou/core/edits/mends';
import { useRouter } from 'next/navigation';
import { useEffect, useRef } from 'react';
import { toast } from 'sonner';
import { useChoices } from '@/ui/choices';
import { mendAlike, mendOne } from '../docket/mend.ts';
import { asks, questionsOf } from '../questions/questions.ts';
import { frameAll } from '../viewport/frame.ts';
import { useFocus } from './focus.ts';
import { isTyping } from './keys.ts';
import { STEPS } from './steps.ts';
import type { Bench } from './useBench.ts';

const NEXT_SIZE = { side: 'full', full: 'folded', folded: 'side' } as const;

/** Keys that work on every step. */
export function useBenchKeys(id: string, bench: Bench | null): void {
  const router = useRouter();
  // The listener stays and reads what was rendered last: a key may arrive before the effects of that rendering run.
  const latest = useRef(bench);
  latest.current = bench;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const bench = latest.current;
      if (!bench) return;
      const command = event.ctrlKey || event.metaKey;
      if (command && event.key.toLowerCase() === 'z' && !isTyping(event)) {
        event.preventDefault();
        if (event.shiftKey) bench.redo();
        else bench.undo();
        return;
      }
      if (command && event.key.toLowerCase() === 'y' && !isTyping(event)) {
        event.preventDefault();
        bench.redo();
        return;
      }
      if (isTyping(event) || command || event.altKey) return;
      if (act(event, id, bench, router.push)) event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [id, router]);
}

function act(event: KeyboardEvent, id: string, bench: Bench, go: (path: string) => void): boolean {
  const focus = useFocus.getState();
  const choices = useChoices.getState();
  const step = STEPS[Number(event.key) - 1];
  if (step) {
    go(`/assets/${id}/${step.id}`);
    return true;
  }
  const { findings } = bench.view;
  const at = findings.findIndex((finding) => finding.key === focus.finding);
  switch (event.key.toLowerCase()) {
    case 'n':
      moveFinding(bench, at < 0 ? 0 : at + 1);
      return true;
    case 'p':
      moveFinding(bench, at < 0 ? findings.length - 1 : at - 1);
      return true;
    case 'm': {
      const finding = findings[at];
      if (finding && asks(finding) && !finding.safe) {
        focus.set({ question: finding.key });
        return true;
      }
      if (!finding || !hasMend(finding)) return false;
      if (event.shiftKey) mendAlike(bench, finding);
      else {
        mendOne(bench, finding);
        focus.set({ finding: (findings[at + 1] ?? findings[at - 1])?.key ?? null });
      }
      return true;
    }
    case 'q':
      openQuestion(bench);
      return true;
    case 'e':
      if (at >= 0) focus.set({ dialog: 'evidence' });
      return at >= 0;
    case 'l':
      focus.set({ dialog: 'log' });
      return true;
    case 'f':
      frameAll();
      return true;
    case 'w':
      choices.setView({ wireframe: !choices.view.wireframe });
      return true;
    case 'x':
      choices.setView({ probe: !choices.view.probe });
      return true;
    case 't':
      focus.set({ dialog: 'stills' });
      return true;
    case 'v':
      choices.setView({ size: NEXT_SIZE[choices.view.size] });
      return true;
    case 'h':
      go(`/assets/${id}/handoff`);
      return true;
    case '?':
      focus.set({ dialog: 'keys' });
      return true;
    default:
      return false;
  }
}

/** Opens what is asked first, or closes it. */
export function openQuestion(bench: Bench): void {
  const focus = useFocus.getState();
  if (focus.question !== null) return focus.set({ question: null });
  const [first] = questionsOf(bench.view.findings);
  if (first) focus.set({ question: first.finding.key, finding: first.finding.key });
  else toast('Nothing is asked.');
}

/** Focuses a finding and shows what it is about. */
export function moveFinding(bench: Bench, index: number): void {
  const { findings } = bench.view;
  if (findings.length === 0) return;
  const finding = findings[(index + findings.length) % findings.length];
  const { material, channel, image } = finding.target;
  useFocus.getState().set({
    finding: finding.key,
    ...(image ? { image } : {}),
    ...(material && channel ? { slot: { material, channel }, anchor: { material, channel }, selected: [{ material, channel }] } : {}),
  });
  requestAnimationFrame(() => document.querySelector('[data-finding-focused]')?.scrollIntoView({ block: 'nearest' }));
}
