'use client';

import { useEffect, useRef, useState } from 'react';
import { usePartFocus } from '../parts/partFocus.ts';
import { useFocus } from './focus.ts';

/** What a bench and the window of its view tell each other. Two benches of one asset stay apart. */
interface Told {
  from: 'bench' | 'window';
  focus: ReturnType<typeof focusNow>;
  parts: ReturnType<typeof partsNow>;
  step: string | null;
}

function focusNow() {
  const { finding, slot, anchor, selected } = useFocus.getState();
  return { finding, slot, anchor, selected };
}

function partsNow() {
  const { set: _set, ...parts } = usePartFocus.getState();
  return parts;
}

/**
 * Shares what is selected on a bench with the window of its view, both ways; edits and choices reach both
 * anyway. Returns the step of the bench. `step` is null in the window.
 */
export function useSharedFocus(id: string, step: string | null): string {
  const from = step === null ? 'window' : 'bench';
  const [heard, setHeard] = useState('slots');
  const own = useRef(step);
  const tellNow = useRef(() => {});
  useEffect(() => {
    const channel = new BroadcastChannel(`kinkajou-bench-${id}`);
    let hearing = false;
    const tell = () => {
      if (!hearing)
        channel.postMessage({ from, focus: focusNow(), parts: partsNow(), step: own.current } satisfies Told);
    };
    tellNow.current = tell;
    channel.onmessage = ({ data }: MessageEvent<Told | 'hello'>) => {
      if (data === 'hello') return from === 'bench' ? tell() : undefined;
      if (data.from === from) return;
      hearing = true;
      useFocus.setState(data.focus);
      usePartFocus.setState(data.parts);
      hearing = false;
      if (data.step !== null) setHeard(data.step);
    };
    const stops = [useFocus.subscribe(tell), usePartFocus.subscribe(tell)];
    if (from === 'window') channel.postMessage('hello');
    return () => {
      for (const stop of stops) stop();
      channel.close();
    };
  }, [id, from]);
  useEffect(() => {
    own.current = step;
    tellNow.current();
  }, [step]);
  return step ?? heard;
}
