import { headers } from 'next/headers';
import { curlOf } from '@/server/http/openApi';
import { OPERATIONS } from '@/server/http/operations';
import { AppStrip } from '@/ui/AppStrip';

export const metadata = { title: 'HTTP interface' };

/** What scripts can ask, each with a line for a shell. */
export default async function Page() {
  const address = `http://${(await headers()).get('host')}`;
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <main className="min-h-0 flex-1 overflow-auto bg-base-200">
        <div className="mx-auto grid max-w-4xl gap-4 p-6">
          <h1 className="text-[20px] font-bold">HTTP interface</h1>
          <p className="text-[12.8px] text-[var(--soft)]">
            For scripts and farms. The same as an OpenAPI document:{' '}
            <a className="underline" href="/api/openapi">
              /api/openapi
            </a>
            . Tokens are made under Settings. Errors are JSON in words, with code, place and hint.
          </p>
          {OPERATIONS.map((operation) => (
            <section
              key={`${operation.method} ${operation.path}`}
              className="rounded-md border border-[var(--line)] bg-base-100 p-3"
            >
              <h2 className="text-[13px] font-bold">{operation.summary}</h2>
              <p className="font-mono text-[12px]">
                {operation.method.toUpperCase()} {operation.path}
                {operation.token && <span className="ml-2 text-[11px] text-secondary">with a token</span>}
              </p>
              <p className="text-[12px] text-[var(--soft)]">{operation.answers}</p>
              <pre className="mt-1.5 overflow-auto rounded-[4px] bg-base-200 p-2 text-[11.3px] whitespace-pre-wrap break-all">
                {curlOf(operation, address)}
              </pre>
            </section>
          ))}
        </div>
      </main>
    </div>
  );
}
