import { createContext, useContext } from 'react';
import { useStore } from 'zustand';
import type { OperationInfo, ProjectState } from '../api/types';
import type { ViewCommands, ViewState, ViewStore } from './view/store';
import type { Marks } from '../viewport/marks';
import type { Viewport } from '../viewport/Viewport';

export interface WorkspaceValue {
  projectId: string;
  data: ProjectState;
  operations: OperationInfo[];
  store: ViewStore;
  commands: ViewCommands;
  run: (command: () => Promise<unknown>) => void;
  viewport: { current: Viewport | null };
  /** what is selected, a byte an element; the store knows the counts */
  selected: { current: Marks };
}

export const WorkspaceContext = createContext<WorkspaceValue | null>(null);

export function useWorkspace(): WorkspaceValue {
  const value = useContext(WorkspaceContext);
  if (!value) throw new Error('useWorkspace outside the workspace');
  return value;
}

export const useView = <T>(selector: (state: ViewState) => T): T => useStore(useWorkspace().store, selector);
