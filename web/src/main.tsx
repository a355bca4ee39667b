import '@fontsource-variable/ibm-plex-sans';
import '@fontsource/ibm-plex-mono/400.css';
import '@mantine/core/styles.css';
import '@mantine/notifications/styles.css';
import './tokens.css';
import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode, useEffect } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { App } from './App.tsx';
import { listen } from './api/queries.ts';
import { theme } from './theme.ts';

const client = new QueryClient({ defaultOptions: { queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: false } } });
function Listening() {
  useEffect(() => listen(client), []);
  return null;
}
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <MantineProvider theme={theme} forceColorScheme="dark">
      <Notifications position="bottom-center" limit={3} />
      <QueryClientProvider client={client}>
        <Listening />
        <BrowserRouter><App /></BrowserRouter>
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
