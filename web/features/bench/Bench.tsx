'use client';

import type { Step } from '@kinkajou/core/findings/finding';
import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useParams } from 'next/navigation';
import { type ComponentType, useEffect } from 'react';
import { buttonClass } from '@/ui/Button';
import { useChoices } from '@/ui/choices';
import { ColourStep } from '../colour/ColourStep.tsx';
import { CompareStep } from '../compare/CompareStep.tsx';
import { Docket } from '../docket/Docket.tsx';
import { HandoffStep } from '../handoff/HandoffStep.tsx';
import { LinksStep } from '../links/LinksStep.tsx';
import { PartsStep } from '../parts/PartsStep.tsx';
import { QuestionSheet } from '../questions/QuestionSheet.tsx';
import { ImageDrag } from '../slots/ImageDrag.tsx';
import { SlotsStep } from '../slots/SlotsStep.tsx';
import { IntakeStep } from '../steps/IntakeStep.tsx';
import { SurfaceStep } from '../surface/SurfaceStep.tsx';
import { Dialogs } from './Dialogs.tsx';
import { useFocus } from './focus.ts';
import { StatusLine } from './StatusLine.tsx';
import { isStep } from './steps.ts';
import { TopStrip } from './TopStrip.tsx';
import { BenchProvider, useBenchActions, useBenchQuery } from './useBench.ts';
import { useBenchCommands } from './useBenchCommands.ts';

const Viewport = dynamic(() => import('../viewport/Viewport.tsx').then((module) => module.Viewport), {
  ssr: false,
  loading: () => <aside className="bg-base-200" />,
});

const STEP_VIEWS: Record<Step, ComponentType> = {
  intake: IntakeStep,
  links: LinksStep,
  slots: SlotsStep,
  colour: ColourStep,
  surface: SurfaceStep,
  parts: PartsStep,
  compare: CompareStep,
  handoff: HandoffStep,
};

const COLUMNS = { side: '278px minmax(0, 1fr) 396px', full: '278px minmax(0, 1fr)', folded: '278px minmax(0, 1fr) 34px' };

/** The place where one asset is worked on. It stays while the steps change, and so does the view. */
export function Bench({ id }: { id: string }) {
  const params = useParams<{ step?: string }>();
  const step = params.step && isStep(params.step) ? params.step : 'slots';
  const query = useBenchQuery(id);
  const bench = useBenchActions(id, query.view);
  const name = query.view?.name;
  const size = useChoices((choices) => choices.view.size);
  const asking = useFocus((state) => state.question !== null);
  useBenchCommands(id, bench);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another asset starts without focus
  useEffect(() => {
    useFocus.getState().set({ finding: null, slot: null, anchor: null, selected: [], image: null, candidate: 0, images: [], dialog: null, question: null });
  }, [id]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: going to another step leaves the question open
  useEffect(() => useFocus.getState().set({ question: null }), [step]);
  useEffect(() => {
    if (name) document.title = `${name} - Kinkajou`;
  }, [name]);
  if (query.error && !bench) return <Gone message={query.error.message} />;
  if (!bench) return <div className="grid h-full place-items-center text-[var(--soft)]">opening the asset ...</div>;
  const StepView = STEP_VIEWS[step];
  return (
    <BenchProvider value={bench}>
      <div className="grid h-full" style={{ gridTemplateRows: '54px minmax(0, 1fr) 28px', gridTemplateColumns: 'minmax(0, 1fr)' }}>
        <TopStrip step={step} />
        <ImageDrag>
          <main className="grid min-h-0" style={{ gridTemplateColumns: COLUMNS[size] }}>
            <Docket />
            {size !== 'full' && (
              <section className="min-h-0 min-w-0 border-r border-[var(--line)] bg-base-100" aria-label={step}>
                {asking ? <QuestionSheet /> : <StepView />}
              </section>
            )}
            <Viewport />
          </main>
        </ImageDrag>
        <StatusLine />
        <Dialogs />
      </div>
    </BenchProvider>
  );
}

function Gone({ message }: { message: string }) {
  return (
    <div className="grid h-full place-content-center justify-items-center gap-3">
      <p className="text-[15px] font-semibold">This asset cannot be opened</p>
      <p className="text-[var(--soft)]">{message}</p>
      <Link href="/" className={buttonClass(true)}>
        Back to the shelf
      </Link>
    </div>
  );
}
