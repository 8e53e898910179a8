import '@fontsource-variable/atkinson-hyperlegible-next';
import '@fontsource-variable/literata';
import { AppRouterCacheProvider } from '@mui/material-nextjs/v16-appRouter';
import InitColorSchemeScript from '@mui/material/InitColorSchemeScript';
import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import { AppTheme } from '@/ui/theme/AppTheme';
import { Spoken } from '@/ui/components/Spoken';
import { Notices } from '@/ui/components/Notices';

export const metadata: Metadata = {
  title: 'Parola',
  description: 'Record speech to a delivery specification, and hand over files that pass.',
};

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <InitColorSchemeScript attribute="data-scheme" defaultMode="system" nonce={nonce} />
        <AppRouterCacheProvider options={{ nonce }}>
          <AppTheme>
            <Spoken>
              {children}
              <Notices />
            </Spoken>
          </AppTheme>
        </AppRouterCacheProvider>
      </body>
    </html>
  );
}
