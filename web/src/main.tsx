import './theme/policy';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { MutationCache, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { RouterProvider } from '@tanstack/react-router';
import { Tooltip } from 'radix-ui';
import { Refusal } from '@/api/client';
import { sessionKey } from '@/api/session';
import { Notices, notify } from '@/parts/Notices';
import { applyTheme, readTheme } from '@/theme/theme';
import { router } from './router';
import './theme/index.css';

const client: QueryClient = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => !(error instanceof Refusal && error.status > 0) && count < 3,
      staleTime: 5000,
    },
  },
  mutationCache: new MutationCache({
    onError: (error) => {
      notify({ text: error.message, tone: 'problem' });
      if (error instanceof Refusal && error.status === 401)
        void client.invalidateQueries({ queryKey: sessionKey });
    },
  }),
});

applyTheme(readTheme());
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={400}>
        <RouterProvider router={router} />
        <Notices />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
