import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Toaster } from 'sonner';
import { AccountPage } from './features/account/AccountPage';
import { ProjectList } from './features/projects/ProjectList';
import { applyTheme, storedTheme } from './ui/theme';
import { Workspace } from './workspace/Workspace';

applyTheme(storedTheme());
const project = /^\/projects\/([0-9a-f-]{36})$/.exec(window.location.pathname)?.[1];
const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: 2, staleTime: 1000 } } })}>
        {project ? <Workspace projectId={project} /> : window.location.pathname === '/account' ? <AccountPage /> : <ProjectList />}
        <Toaster position="top-center" toastOptions={{ className: 'rounded-box' }} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
