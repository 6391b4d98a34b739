'use client';

import { hasMend } from '@kinkajou/core/edits/mends';
import type { Finding, Step } from '@kinkajou/core/findings/finding';
import { toast } from 'sonner';
import { useChoices } from '@/ui/choices';
import type { Handlers } from '@/ui/commands/registry';
import { useCommands } from '@/ui/commands/useCommands';
import { docketOrder } from '../docket/groups.ts';
import { mendOne, mendSafe, mendSameKind } from '../docket/mend.ts';
import { asks, questionsOf } from '../questions/questions.ts';
import { frameAll } from '../viewport/frame.ts';
import { useFocus } from './focus.ts';
import { goToStep, STEPS } from './steps.ts';
import type { Bench } from './useBench.ts';
import { openViewWindow } from './viewWindow.ts';

const NEXT_SIZE = { side: 'full', full: 'folded', folded: 'side' } as const;

/** What can be done on every step. */
export function useBenchCommands(id: string, bench: Bench | null, step: Step): void {
  const focused = useFocus((focus) => focus.finding);
  const here = useChoices((choices) => choices.docketHere);
  const order = bench ? docketOrder(bench.view.findings, here ? step : null) : [];
  useCommands(
    bench
      ? {
          ...steps(id),
          ...findingCommands(bench, order, focused),
          ...logCommands(bench),
          ...VIEW,
          viewWindow: () => openViewWindow(id),
        }
      : {},
  );
}

function steps(id: string): Handlers {
  return Object.fromEntries(STEPS.map((step) => [`step.${step.id}`, () => goToStep(id, step.id)]));
}

function findingCommands(bench: Bench, findings: readonly Finding[], focused: string | null): Handlers {
  const index = findings.findIndex((finding) => finding.key === focused);
  const finding: Finding | undefined = findings[index];
  const set = useFocus.getState().set;
  return {
    nextFinding: findings.length > 0 ? () => focusFinding(findings[(index + 1) % findings.length]) : null,
    previousFinding:
      findings.length > 0 ? () => focusFinding(findings.at(index <= 0 ? -1 : index - 1) as Finding) : null,
    mend: mendCommand(bench, findings, index),
    mendSameKind: finding && hasMend(finding) ? () => mendSameKind(bench, finding) : null,
    mendSafe: () => mendSafe(bench),
    question: () => openQuestion(bench),
    evidence: finding ? () => set({ dialog: 'evidence' }) : null,
  };
}

/** Mends and goes on to the next; a finding that needs an answer opens its question. */
function mendCommand(bench: Bench, findings: readonly Finding[], index: number): (() => void) | null {
  const finding: Finding | undefined = findings[index];
  const { set } = useFocus.getState();
  if (!finding) return null;
  if (asks(finding) && !finding.safe) return () => set({ question: finding.key });
  if (!hasMend(finding)) return null;
  return () => {
    mendOne(bench, finding);
    set({ finding: (findings[index + 1] ?? findings[index - 1])?.key ?? null });
  };
}

function logCommands(bench: Bench): Handlers {
  const { set } = useFocus.getState();
  return {
    undo: bench.undo,
    redo: bench.redo,
    log: () => set({ dialog: 'log' }),
    deliveries: () => set({ dialog: 'deliveries' }),
    templates: () => set({ dialog: 'templates' }),
  };
}

const VIEW: Handlers = {
  frame: frameAll,
  wireframe: () => changeView(({ wireframe }) => ({ wireframe: !wireframe })),
  probe: () => changeView(({ probe }) => ({ probe: !probe })),
  pictures: () => useFocus.getState().set({ dialog: 'stills' }),
  viewSize: () => changeView(({ size }) => ({ size: NEXT_SIZE[size] })),
};

/** What can be done where the view stands alone. */
export function useViewCommands(): void {
  const { viewSize: _size, ...alone } = VIEW;
  useCommands(alone);
}

type View = ReturnType<typeof useChoices.getState>['view'];

function changeView(change: (view: View) => Partial<View>): void {
  const { view, setView } = useChoices.getState();
  setView(change(view));
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
export function focusFinding({ key, target: { material, channel, image } }: Finding): void {
  useFocus.getState().set({
    finding: key,
    ...(image ? { image } : {}),
    ...(material && channel
      ? { slot: { material, channel }, anchor: { material, channel }, selected: [{ material, channel }] }
      : {}),
  });
  requestAnimationFrame(() =>
    document.querySelector('[data-finding-focused]')?.scrollIntoView({ block: 'nearest' }),
  );
}
