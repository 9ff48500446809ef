import { useMemo, useRef } from 'react';
import { useOperations, useCommand, useProject } from '../state/server/queries';
import { commands, createViewStore } from '../state/view/store';
import { type Marks, NOTHING } from '../viewport/marks';
import type { Viewport } from '../viewport/Viewport';
import { CommandBox } from '../features/find/CommandBox';
import { ShortcutSheet } from '../features/find/ShortcutSheet';
import { useView, useWorkspace, WorkspaceContext } from '../state/context';
import { UploadBar, UploadsProvider } from '../features/gather/Uploads';
import { Guarded } from '../ui/Guarded';
import { NextStep } from './NextStep';
import { PanelEdge, usePanels } from './PanelEdge';
import { LedgerStrip } from './LedgerStrip';
import { Rail } from './Rail';
import { ReadyCard } from './ReadyCard';
import { StepPanel } from './StepPanel';
import { Tray } from './Tray';
import { ViewPane } from './ViewPane';

function Overlays() {
  const { store } = useWorkspace();
  const overlay = useView((s) => s.overlay);
  const close = () => store.setState({ overlay: null });
  return overlay === 'find' ? <CommandBox onClose={close} /> : overlay === 'keys' ? <ShortcutSheet onClose={close} /> : null;
}

/** The window: rail, tray, view, step panel with ready card, ledger. */
export function Workspace({ projectId }: { projectId: string }) {
  const project = useProject(projectId);
  const operations = useOperations();
  const command = useCommand(projectId);
  const store = useMemo(createViewStore, []);
  const viewport = useRef<Viewport | null>(null);
  const selected = useRef<Marks>(NOTHING);
  const [panels, setPanel] = usePanels();
  if (!project.data || !operations.data) {
    const problem = project.error ?? operations.error;
    return (
      <p className="p-8">
        {problem ? `${problem.message} ` : 'Opening the project…'}
        {problem ? (
          <a className="link" href="/">
            Back to the projects
          </a>
        ) : null}
      </p>
    );
  }
  const value = { projectId, data: project.data, operations: operations.data, store, commands: commands(store), run: command.mutate, viewport, selected };
  return (
    <WorkspaceContext value={value}>
      <UploadsProvider>
        <div className="grid h-full grid-rows-[3.25rem_minmax(0,1fr)_auto_5.6rem]">
          <Rail />
          <div className="grid min-h-0" style={{ gridTemplateColumns: `${panels.left}rem minmax(0, 1fr) ${panels.right}rem` }}>
            <aside className="relative grid min-h-0 min-w-0" aria-label="Tray">
              <Guarded what="the tray">
                <Tray />
              </Guarded>
              <PanelEdge side="left" label="How wide the list of things is" rem={panels.left} onChange={setPanel} />
            </aside>
            <Guarded what="the view">
              <ViewPane />
            </Guarded>
            <aside className="relative flex min-h-0 min-w-0 flex-col border-l border-neutral bg-base-100" aria-label="Tools">
              <PanelEdge side="right" label="How wide the tools are" rem={panels.right} onChange={setPanel} />
              <Guarded what="the tools">
                <NextStep />
                <StepPanel />
              </Guarded>
              <Guarded what="the ready card">
                <ReadyCard />
              </Guarded>
            </aside>
          </div>
          <UploadBar />
          <Guarded what="the ledger">
            <LedgerStrip />
          </Guarded>
        </div>
      </UploadsProvider>
      <Overlays />
    </WorkspaceContext>
  );
}
