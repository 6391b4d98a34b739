import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import { Providers } from '@/ui/Providers';
import './globals.css';

export const metadata: Metadata = {
  title: { default: 'Kinkajou', template: '%s - Kinkajou' },
  description: 'Moves textured models between applications without losing their look.',
  icons: { icon: '/mark.svg' },
};

/** Sets the remembered theme before the first paint, so that nothing flashes. */
const THEME_SCRIPT = `try{var t=JSON.parse(localStorage.getItem('kinkajou-choices')||'{}').state;document.documentElement.dataset.theme=(t&&t.theme)||(matchMedia('(prefers-color-scheme: dark)').matches?'night':'day')}catch(e){document.documentElement.dataset.theme='day'}`;

export default async function RootLayout({ children }: { children: ReactNode }) {
  // Made by the proxy for this answer alone.
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        {/* biome-ignore lint/security/noDangerouslySetInnerHtml: a constant of ours, needed before hydration */}
        <script nonce={nonce} dangerouslySetInnerHTML={{ __html: THEME_SCRIPT }} />
      </head>
      <body>
        <Providers>{children}</Providers>
      </body>
    </html>
  );
}
