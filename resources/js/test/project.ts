import type { BodyItem, DatumItem, OperationInfo, ParameterInfo, PassItem, ProjectState, ReadyLine, StepItem } from '../api/types';

/** Small pieces of a project for tests; what a test does not say is ordinary. */
export const aParameter = (name: string, over: Partial<ParameterInfo> = {}): ParameterInfo => ({
  name,
  type: 'float',
  required: false,
  nullable: true,
  default: null,
  label: name,
  help: '',
  unit: '',
  min: null,
  exclusiveMin: false,
  max: null,
  choices: [],
  picks: null,
  empty: '',
  suggested: false,
  with: [],
  ...over,
});

export const anOperation = (name: string, stage: string, over: Partial<OperationInfo> = {}): OperationInfo => ({ name, stage, label: name, help: '', avoid: '', looksOnly: false, needs: 'any', on: 'shown', parameters: [], ...over });

export const aPass = (id: string): PassItem => ({ id, name: id, blob: '', mask: null, points: 9, kept: 9, nth: 0, transform: [], residual: null, overlap: null, locked: false });

export const aMesh = (id: string, holeCount = 0): BodyItem => ({ id, name: id, blob: '', kind: 'mesh', points: 3, faces: 1, transform: [], figures: { measured: 1, holeCount, faultCount: 0, closed: holeCount === 0, volume: null, holes: [] } });

export const aDatum = (id: string): DatumItem => ({ id, name: id, kind: 'plane', origin: [0, 0, 0], direction: [0, 0, 1], radius: 0, size: 1, max: 0, rms: 0, points: 3, halfAngleDeg: 0, made: 'picked', bodyId: null, parents: [], across: [0, 0, 0] });

export const aStep = (id: number, operation: string, state: StepItem['state'] = 'done'): StepItem => ({
  id,
  operation,
  state,
  progress: 0,
  doing: null,
  figures: null,
  message: null,
  seconds: null,
  stopAsked: false,
  parameters: {},
  on: null,
  begunAt: null,
  expected: null,
  follows: 0,
  by: 'Ada',
  isMine: true,
  isTheirs: false,
});

export function aProject(over: { passes?: PassItem[]; bodies?: BodyItem[]; datums?: DatumItem[]; steps?: StepItem[]; ready?: Partial<Record<string, ReadyLine['state']>> } = {}): ProjectState {
  const bodies = over.bodies ?? [];
  return {
    project: { id: 'x', name: 'Bush', brief: { unit: 'mm', up: '+z', faceBudget: 60000, toleranceMm: 0.2, closed: true, leastMeasured: 0.9 }, scaleConfirmed: null, owner: 'Ada', isOwner: true, here: [], members: [] },
    snapshot: { passes: over.passes ?? [], bodies, datums: over.datums ?? [], artefacts: [], suggestions: {}, oriented: false },
    steps: over.steps ?? [],
    next: null,
    readyCard: ['closed', 'sound', 'scale', 'oriented', 'light', 'faithful', 'measured'].map((key) => ({ key, label: key, state: over.ready?.[key] ?? 'bad', figure: '', fix: null })),
    readyCards: {},
    trial: null,
    capture: null,
    readyBody: bodies.at(-1)?.id ?? null,
    diskUsed: null,
    canUndo: false,
    canRedo: false,
  };
}
