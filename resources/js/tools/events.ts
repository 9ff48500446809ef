/** Points in CSS pixels of the view, and hits in project millimetres. Tools know no DOM. */
export interface ScreenPoint {
  x: number;
  y: number;
}

export interface Hit {
  itemId: string;
  kind: 'pass' | 'body';
  /** face of a mesh, point of a cloud */
  index: number;
  pointMm: [number, number, number];
}

export type ToolEvent =
  | { type: 'down'; at: ScreenPoint; hit?: Hit /** the pick that is drawn there */; onPick?: number | null }
  | { type: 'move'; at: ScreenPoint; hit?: Hit }
  | { type: 'up'; at: ScreenPoint; hit?: Hit /** with Ctrl held */; more?: boolean }
  | { type: 'complete' }
  | { type: 'removeLast' }
  | { type: 'cancel' }
  | { type: 'interrupt' };

export interface Tool<S, E> {
  id: string;
  initial: S;
  step(state: S, event: ToolEvent): { state: S; effects: E[] };
}
