'use client';

import { buttonClass } from '@/ui/Button';

/** Instead of a view that broke: what is known of it, and the ways on. */
export default function Broken({ error, reset }: { error: Error & { digest?: string }; reset: () => void }) {
  return (
    <main className="grid h-full place-content-center justify-items-center gap-3 p-6 text-center">
      <h1 className="text-[15px] font-semibold">This view broke</h1>
      <p className="max-w-xl text-[var(--soft)]">
        What was done before is saved. If it breaks again, send these words along: {error.message}
      </p>
      <span className="flex gap-2">
        <button type="button" className={buttonClass(true)} onClick={reset}>
          Try again
        </button>
        <a href="/" className={buttonClass()}>
          To the shelf
        </a>
      </span>
    </main>
  );
}
