import { Children, type ReactNode } from 'react';
import Markdown, { type Components } from 'react-markdown';
import remarkGfm from 'remark-gfm';
import { Link } from '@/ui/Link';
import { anchorOf, helpHref } from './helpLinks.ts';

/** A page of the help as it stands in the repository. */
export function HelpArticle({ text, path }: { text: string; path: string }) {
  return (
    <article className="mx-auto grid max-w-[78ch] gap-2.5 px-6 py-5 text-[13.5px] leading-relaxed">
      <Markdown
        remarkPlugins={[remarkGfm]}
        components={{
          ...BLOCKS,
          a: ({ href = '', children }) => <PageLink href={helpHref(href, path)}>{children}</PageLink>,
        }}
      >
        {text}
      </Markdown>
    </article>
  );
}

function PageLink({ href, children }: { href: string; children?: ReactNode }) {
  return (
    <Link href={href} className="underline decoration-dotted underline-offset-2 hover:decoration-solid">
      {children}
    </Link>
  );
}

const wordsOf = (children: ReactNode) =>
  Children.toArray(children)
    .filter((child) => typeof child === 'string')
    .join('');

const BLOCKS: Components = {
  h1: ({ children }) => <h1 className="text-[20px] font-bold">{children}</h1>,
  h2: ({ children }) => (
    <h2
      id={anchorOf(wordsOf(children))}
      className="mt-3 scroll-mt-4 text-[15px] font-bold target:bg-[var(--honey-wash)]"
    >
      {children}
    </h2>
  ),
  h3: ({ children }) => (
    <h3 id={anchorOf(wordsOf(children))} className="mt-2 font-semibold">
      {children}
    </h3>
  ),
  // Pictures lie beside the pages of the guide.
  img: ({ src, alt }) => (
    <img
      src={`/api/help/${src}`}
      alt={alt}
      loading="lazy"
      width={1280}
      height={800}
      className="h-auto w-full rounded-md border border-[var(--line)]"
    />
  ),
  ul: ({ children }) => <ul className="grid list-disc gap-1 pl-5">{children}</ul>,
  ol: ({ children }) => <ol className="grid list-decimal gap-1.5 pl-5">{children}</ol>,
  code: ({ children, className }) =>
    className ? (
      <code>{children}</code>
    ) : (
      <code className="rounded bg-base-300 px-1 py-0.5 font-mono text-[12px] break-words">{children}</code>
    ),
  pre: ({ children }) => (
    <pre className="overflow-auto rounded-md border border-[var(--line)] bg-base-100 p-3 font-mono text-[12px] leading-relaxed whitespace-pre-wrap">
      {children}
    </pre>
  ),
  table: ({ children }) => (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what is wider than the page is scrolled by keys
    <div tabIndex={0} className="overflow-auto">
      <table className="table table-xs">{children}</table>
    </div>
  ),
};
