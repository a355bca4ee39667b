import '@fontsource-variable/ibm-plex-sans';
import '@fontsource/ibm-plex-mono/400.css';
import '@mantine/core/styles.css';
import '@mantine/notifications/styles.css';
import '@mantine/spotlight/styles.css';
import './tokens.css';
import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider, notifyManager } from '@tanstack/react-query';
import { StrictMode, useEffect } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { App } from './App.tsx';
import { listen } from '../api/queries.ts';
import { tryAllNow } from '../session/writeQueue.ts';
import { theme } from './theme.ts';
import { guardUnsentWork } from './unsentWork.ts';

// what hands do shows before the next key or click is taken: an edit that comes a moment after the choice of its
// destination belongs there
notifyManager.setScheduler(queueMicrotask);
const client = new QueryClient({
  defaultOptions: { queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: false } },
});
function Listening() {
  useEffect(() => listen(client, tryAllNow), []);
  useEffect(guardUnsentWork, []);
  return null;
}
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <MantineProvider theme={theme} forceColorScheme="dark">
      <Notifications position="bottom-center" limit={3} />
      <QueryClientProvider client={client}>
        <Listening />
        <BrowserRouter useTransitions={false}>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
