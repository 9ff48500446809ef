import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Toaster } from 'sonner';
import { AccountPage } from './features/account/AccountPage';
import { ProjectList } from './features/projects/ProjectList';
import { ReceivedPage } from './features/received/ReceivedPage';
import { Guarded } from './ui/Guarded';
import { applyTheme, storedTheme } from './ui/theme';
import { Workspace } from './workspace/Workspace';

applyTheme(storedTheme());
const project = /^\/projects\/([0-9a-f-]{36})$/.exec(window.location.pathname)?.[1];
const received = /^\/received\/([0-9a-f]{64})$/.exec(window.location.pathname)?.[1];

function Page() {
  if (project) return <Workspace projectId={project} />;
  if (received) return <ReceivedPage token={received} />;
  return window.location.pathname === '/account' ? <AccountPage /> : <ProjectList />;
}

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: 2, staleTime: 1000 } } })}>
        <Guarded what="this page">
          <Page />
        </Guarded>
        <Toaster position="top-center" toastOptions={{ className: 'rounded-box' }} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
