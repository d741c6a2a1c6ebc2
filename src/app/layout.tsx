import './globals.css';
import { cookies } from 'next/headers';
import type { ReactNode } from 'react';
import { Toaster } from 'sonner';
import { ViewerClockProvider } from '../ui/primitives/Time';
import { TooltipProvider } from '../ui/primitives/Tooltip';
import { knownZone } from '../ui/primitives/zone';
import { themeOf } from './_server/theme';
import { windgap } from './_server/windgap';

export default async function RootLayout({ children }: { children: ReactNode }) {
  const jar = await cookies();
  const theme = themeOf(jar);
  return (
    <html lang="en" data-theme={theme === 'system' ? undefined : theme}>
      <body>
        <ViewerClockProvider zone={knownZone(jar.get('zone')?.value)} now={(await windgap()).now()}>
          <TooltipProvider>{children}</TooltipProvider>
        </ViewerClockProvider>
        <Toaster
          position="bottom-right"
          toastOptions={{
            style: {
              background: 'var(--panel)',
              color: 'var(--ink)',
              border: '1px solid var(--line-strong)',
              borderRadius: 6,
              fontFamily: 'inherit',
            },
          }}
        />
      </body>
    </html>
  );
}
