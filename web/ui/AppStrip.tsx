'use client';

import { Command as CommandIcon, Moon, Sun } from 'lucide-react';
import { usePathname } from 'next/navigation';
import { useEffect, useState } from 'react';
import { useChoices } from './choices.ts';
import { run } from './commands/registry.ts';
import { labelOf } from './commands/table.ts';
import { Link } from './Link.tsx';

const VIEWS = [
  { href: '/', title: 'Shelf' },
  { href: '/intake', title: 'Intake' },
  { href: '/questions', title: 'Questions' },
  { href: '/destinations', title: 'Destinations' },
  { href: '/rulebooks', title: 'Rulebooks' },
  { href: '/runs', title: 'Runs' },
  { href: '/handoffs', title: 'Handoffs' },
  { href: '/insights', title: 'Insights' },
  { href: '/workers', title: 'Workers' },
  { href: '/settings', title: 'Settings' },
  { href: '/help', title: 'Help' },
];

/** The strip above every view but the bench, which has its own. */
export function AppStrip() {
  const path = usePathname();
  return (
    <header
      className="flex h-[54px] shrink-0 items-center gap-1.5 px-3.5 text-[#f3ecd9]"
      style={{ background: 'var(--strip)' }}
    >
      <Link href="/" className="mr-1 flex items-center gap-2.5 text-[15px] font-bold xl:mr-5">
        <Logo /> Kinkajou
      </Link>
      <nav className="flex min-w-0 gap-1 overflow-x-auto py-1" aria-label="Views">
        {VIEWS.map(({ href, title }) => (
          <Link
            key={href}
            href={href}
            aria-current={isAt(path, href) ? 'page' : undefined}
            className={`shrink-0 rounded-full px-2 py-1 text-[12.5px] xl:px-3 ${isAt(path, href) ? 'bg-accent font-semibold text-accent-content' : 'text-[var(--strip-soft)] hover:text-white'}`}
          >
            {title}
          </Link>
        ))}
      </nav>
      <span className="flex-1" />
      <CommandsButton />
      <ThemeButton />
    </header>
  );
}

/** Pages below a view are that view's. */
function isAt(path: string, href: string): boolean {
  return path === href || (href !== '/' && path.startsWith(`${href}/`));
}

/** The mark of the application; its name stands beside it. */
export function Logo() {
  return <img src="/mark.svg" alt="" width={30} height={30} className="shrink-0" />;
}

/** Opens the list of all commands. */
export function CommandsButton() {
  return (
    <button
      type="button"
      className="strip-button"
      title={labelOf('commands')}
      aria-label={labelOf('commands')}
      onClick={() => run('commands')}
    >
      <CommandIcon size={15} />
    </button>
  );
}

/** Changes between day and night; until somebody did, the system's choice holds. */
export function ThemeButton() {
  const chosen = useChoices((choices) => choices.theme);
  const [shown, setShown] = useState<'day' | 'night'>('day');
  useEffect(() => {
    setShown(chosen ?? (document.documentElement.dataset.theme === 'night' ? 'night' : 'day'));
  }, [chosen]);
  const next = shown === 'day' ? 'night' : 'day';
  return (
    <button
      type="button"
      className="strip-button"
      title={`Switch to the ${next} theme`}
      aria-label={`Switch to the ${next} theme`}
      onClick={() => run('theme')}
    >
      {shown === 'day' ? <Moon size={15} /> : <Sun size={15} />}
    </button>
  );
}
