import { notFound } from 'next/navigation';
import { HelpArticle } from '@/features/help/HelpArticle';
import { type HelpPage, helpText, listHelp } from '@/server/services/helpPages';
import { AppStrip } from '@/ui/AppStrip';
import { Link } from '@/ui/Link';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Help' };

/** The guide and what it refers to, beside its list. */
export default async function Page({ params }: { params: Promise<{ page?: string[] }> }) {
  const path = ((await params).page ?? []).join('/');
  const text = await helpText(path).catch(() => null);
  if (text === null) notFound();
  const { guide, reference } = await listHelp();
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <div className="grid min-h-0 flex-1" style={{ gridTemplateColumns: '250px minmax(0, 1fr)' }}>
        <nav
          className="overflow-auto border-r border-[var(--line)] bg-base-200 p-3 text-[12.5px]"
          aria-label="Pages of the help"
        >
          <Group title="Guide" pages={guide} current={path} />
          <Group title="Reference" pages={reference} current={path} />
        </nav>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys */}
        <main className="min-h-0 overflow-auto bg-base-200" tabIndex={0}>
          <HelpArticle text={text} path={path} />
        </main>
      </div>
    </div>
  );
}

function Group({ title, pages, current }: { title: string; pages: readonly HelpPage[]; current: string }) {
  return (
    <>
      <h2 className="mt-2 mb-1 px-2 text-[11.5px] font-semibold text-[var(--soft)]">{title}</h2>
      <ul className="grid gap-0.5">
        {pages.map(({ path, title: name }) => (
          <li key={path}>
            <Link
              href={`/help/${path}`}
              aria-current={path === current ? 'page' : undefined}
              className={`block rounded px-2 py-1 ${path === current ? 'bg-[var(--honey-wash)] font-semibold' : 'hover:bg-base-100'}`}
            >
              {name}
            </Link>
          </li>
        ))}
      </ul>
    </>
  );
}
