import type { OperationInfo, ProjectState } from '../api/types';
import type { StageName } from './view/store';

export const STAGES: { name: StageName; label: string }[] = [
  { name: 'gather', label: 'Gather' },
  { name: 'register', label: 'Register' },
  { name: 'fuse', label: 'Fuse' },
  { name: 'mend', label: 'Mend' },
  { name: 'lighten', label: 'Lighten' },
  { name: 'orient', label: 'Orient' },
  { name: 'deliver', label: 'Deliver' },
];

/** Steps that bring geometry in from outside the catalogue of operations. */
const ARRIVALS: Record<string, string> = { import: 'Import', capture: 'Live capture' };

export const infoOf = (operation: string, operations: readonly OperationInfo[]): OperationInfo | undefined => operations.find((o) => o.name === operation);

/** What a step is called. */
export const labelOf = (operation: string, operations: readonly OperationInfo[]): string => infoOf(operation, operations)?.label ?? ARRIVALS[operation] ?? operation;

export const stageOf = (operation: string, operations: readonly OperationInfo[]): string | undefined => (operation in ARRIVALS ? 'gather' : infoOf(operation, operations)?.stage);

/** Operations that are done from the tray or from a list of shapes, on what is chosen there, are not among the tools. */
export const hasForm = (operation: OperationInfo): boolean => operation.parameters.every((p) => p.picks !== 'items' && p.picks !== 'shapes');

export type StageState = 'nothing' | 'todo' | 'running' | 'done' | 'look';

/** The state of each stage, read from the ledger and the ready card. */
export function stageStates(data: ProjectState, stageOf: (operation: string) => string | undefined): Record<StageName, StageState> {
  const running = data.steps.filter((s) => s.state === 'running' || s.state === 'waiting').map((s) => stageOf(s.operation));
  const done = new Set(data.steps.filter((s) => s.state === 'done').map((s) => stageOf(s.operation)));
  const line = (key: string) => data.readyCard.find((l) => l.key === key)?.state;
  const hasMesh = data.readyBody !== null;
  const good = (...keys: string[]) => keys.every((k) => line(k) === 'good');
  const states: Record<StageName, StageState> = {
    gather: data.snapshot.passes.length + data.snapshot.bodies.length > 0 ? 'done' : 'todo',
    register: done.has('register') ? 'done' : data.snapshot.passes.length > 1 ? 'todo' : 'nothing',
    fuse: hasMesh ? 'done' : data.snapshot.passes.length > 0 ? 'todo' : 'nothing',
    mend: !hasMesh ? 'nothing' : good('closed', 'sound') ? 'done' : good('closed') ? 'look' : 'todo',
    lighten: !hasMesh ? 'nothing' : good('light') ? 'done' : 'todo',
    orient: !hasMesh ? 'nothing' : good('oriented') ? 'done' : 'todo',
    deliver: !hasMesh ? 'nothing' : data.readyCard.every((l) => l.state !== 'bad') ? 'todo' : 'nothing',
  };
  for (const { name } of STAGES) if (running.includes(name)) states[name] = 'running';
  return states;
}
