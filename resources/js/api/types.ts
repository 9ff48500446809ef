export type Matrix = readonly number[];

export interface Brief {
  unit: string;
  up: string;
  faceBudget: number;
  toleranceMm: number;
  closed: boolean;
  leastMeasured: number;
}

export interface PassItem {
  id: string;
  name: string;
  blob: string;
  mask: string | null;
  points: number;
  kept: number;
  /** In the order the passes came in. */
  nth: number;
  transform: Matrix;
  residual: number | null;
  overlap: number | null;
  locked: boolean;
  bounds?: { min: [number, number, number]; max: [number, number, number] };
}

export interface Hole {
  edges: number;
  perimeter: number;
  diameter: number;
  centre: [number, number, number];
  /** corners of its rim; results of before have none */
  outline?: [number, number, number][];
  leftOpen?: boolean;
}

export interface MeshFigures {
  measured: number;
  madeUp?: Record<string, number>;
  noiseMm?: number | null;
  holeCount: number;
  faultCount: number;
  closed: boolean;
  volume: number | null;
  holes: Hole[];
  distance?: { p95: number } | null;
}

export interface BodyItem {
  id: string;
  name: string;
  blob: string;
  kind: 'mesh' | 'cloud';
  points: number;
  faces: number;
  transform: Matrix;
  figures?: MeshFigures;
}

export type DatumKind = 'plane' | 'cylinder' | 'cone' | 'sphere' | 'line' | 'point' | 'frame';

export interface DatumItem {
  id: string;
  name: string;
  kind: DatumKind;
  origin: [number, number, number];
  direction: [number, number, number];
  radius: number;
  size: number;
  rms: number;
  points: number;
  halfAngleDeg: number;
  made: string;
  /** what it moves along with */
  bodyId: string | null;
  parents: string[];
  /** X of a frame, whose direction is its Z */
  across: [number, number, number];
}

export type StepState = 'waiting' | 'running' | 'done' | 'failed' | 'stopped' | 'set-aside';

export interface StepItem {
  id: number;
  operation: string;
  state: StepState;
  progress: number;
  doing: string | null;
  figures: { headline: string; notes: string[]; before: Record<string, unknown>; after: Record<string, unknown>; maps?: ShadeMap[] } | null;
  message: string | null;
  seconds: number | null;
  stopAsked: boolean;
  parameters: Record<string, unknown>;
  /** ids of what it works on; null for all that it can */
  on: string[] | null;
  startedAt: string;
}

/** A figure a point of a pass or vertex of a body, to colour it by: a byte each, 0 for none, 1 to 255 from `from` to `to`. */
export interface ShadeMap {
  target: string;
  label: string;
  unit: string;
  from: number;
  to: number;
  blob: string;
}

export interface Scanner {
  part: string;
  rig: string;
  surface: string;
  spray: boolean;
  dots: boolean;
  dotRadius: number;
  dotSpacing: number;
}

/** Where fixed sensors stand to each other (docs/fixture.md). */
export interface Fixture {
  fixture: 1;
  unit?: string;
  heads: { name: string; transform: number[]; residual?: number; balls?: number; planes?: number }[];
}

export interface SolvedFixture {
  id: number;
  project: string;
  at: string;
  fixture: Fixture;
}

export interface LengthPreview {
  factor: number;
  lengths: { measured: number; actual: number; residual: number }[];
}

export interface PairPreview {
  transform: number[];
  residuals: number[];
  hint: [number, number, number] | null;
  /** what the picks hold loosely, in words */
  caution: string | null;
}

/** A live capture that is not over yet. */
export interface Capture {
  id: string;
  state: 'waiting' | 'running' | 'paused' | 'ended' | 'failed';
  scanner: Scanner | null;
  frames: number;
  lost: number;
  isLost: boolean;
  points: number;
  coverage: { cells: number; cellMm: number; thin: number; dense: number } | null;
  standsAt: [number, number, number] | null;
  message: string | null;
  silent: boolean;
}

/** The first lines of a text file of points, and what its columns are taken for. */
export interface TextLook {
  lines: string[][];
  columns: string[];
  heading: number;
  roles: string[];
}

export interface ReadyLine {
  key: string;
  label: string;
  state: 'good' | 'warn' | 'bad';
  figure: string;
  fix: string | null;
}

/** A step carried out to be looked at: how passes and bodies would be; null until it is done. */
export interface Trial {
  step: StepItem;
  passes: PassItem[] | null;
  bodies: BodyItem[] | null;
}

export interface ProjectState {
  project: { id: string; name: string; brief: Brief; scaleConfirmed: { by: string; at: string } | null; owner: string; isOwner: boolean; members: { id: number; name: string; email: string }[] };
  snapshot: {
    passes: PassItem[];
    bodies: BodyItem[];
    datums: DatumItem[];
    suggestions: Record<string, Record<string, number | null>>;
    oriented: boolean;
  };
  steps: StepItem[];
  trial: Trial | null;
  capture: Capture | null;
  /** of each mesh, by its id */
  readyCards: Record<string, ReadyLine[]>;
  /** of the mesh made last, or of none */
  readyCard: ReadyLine[];
  readyBody: string | null;
  /** Share of the server's disk in use, when it is nearly full. */
  diskUsed: number | null;
  canUndo: boolean;
  canRedo: boolean;
}

/** The frame that datums set: from the project's coordinates into it, whose each lock is, a sentence for each datum that locks nothing, and what the fits leave open (degrees, mm). */
export interface FramePreview {
  transform: number[];
  locks: Record<string, string | null>;
  idle: string[];
  plusMinus: Record<string, number | null>;
}

/** One thing a datum measures in the frame that is set. */
export interface FrameCheckRow {
  datum: string;
  kind: DatumKind;
  what: string;
  value: number;
  unit: 'deg' | 'mm';
  plusMinus: number | null;
}

export interface ParameterInfo {
  name: string;
  type: string;
  required: boolean;
  nullable: boolean;
  default: unknown;
  label: string;
  help: string;
  unit: string;
  min: number | null;
  exclusiveMin: boolean;
  max: number | null;
  choices: string[];
  picks: 'plane' | 'points' | 'pairs' | 'selection' | 'box' | 'names' | 'locked' | 'items' | 'clusters' | 'group' | 'datumPairs' | 'target' | 'fixture' | 'region' | 'construct' | 'hold' | 'typed' | 'shape' | 'body' | 'frame' | 'lengths' | 'rims' | null;
  suggested: boolean;
}

export interface OperationInfo {
  name: string;
  stage: string;
  label: string;
  help: string;
  /** what it works on unless something is chosen: all shown that suit, or all together; null where picks say it */
  on: 'shown' | 'together' | null;
  needs: 'passes' | 'meshes' | 'bodies' | 'any' | 'places' | 'nothing';
  parameters: ParameterInfo[];
}

export interface ProjectCard {
  id: string;
  name: string;
  owner: string;
  brief: Brief;
  updatedAt: string;
  passes: number;
  points: number;
  faces: number;
  lengthMm: number | null;
  /** lines of the ready card that are met, of the body made last, and how many it has */
  ready: number;
  lines: number;
  /** meshes of which every line is met, and all */
  readyBodies: number;
  bodies: number;
  picture: { blob: string; transform: Matrix } | null;
}

export interface Estimate {
  seconds: number;
  memoryMb: number;
  faces: number | null;
  refusal: string | null;
  advice: string | null;
}

/** What takes the space of the installation, bytes. */
export interface SpaceTaken {
  /** share of the disk in use, 0 to 1 */
  used: number;
  free: number;
  things: { what: string; bytes: number }[];
  projects: { name: string; owner: string; bytes: number }[];
}

export interface Account {
  name: string;
  email: string;
  sessions: { name: string; browser: string; address: string | null; seenAt: string; isThis: boolean }[];
  /** for who looks after the installation */
  space: SpaceTaken | null;
}

/** Passes and bodies before a step and after it. */
export interface StepStates {
  before: { passes: PassItem[]; bodies: BodyItem[] };
  after: { passes: PassItem[]; bodies: BodyItem[] };
}

/** What there is to know of a pass or body; null what does not apply to it. */
export interface ItemFacts {
  sizeMm: [number, number, number] | null;
  points: number;
  kept: number | null;
  faces: number | null;
  residualMm: number | null;
  overlap: number | null;
  areaMm2: number | null;
  volumeMm3: number | null;
  pieces: number | null;
  genus: number | null;
  /** share of the area that points support */
  measured: number | null;
  /** about, by format */
  fileBytes: Record<string, number>;
  /** steps */
  madeBy: number | null;
  changedBy: number[];
}
