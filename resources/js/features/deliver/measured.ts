import type { BodyItem, StepItem } from '../../api/types';

/** A measurement as a step of measuring tells it. */
export interface Measured {
  step: number;
  /** the same of what was measured once more in the same way */
  way: string;
  name: string;
  value: number;
  /** half the width that holds the true value in 95 of 100 cases; null where nothing tells it */
  uncertainty: number | null;
  unit: string;
  nominal: number | null;
  plus: number | null;
  minus: number | null;
  verdict: 'in' | 'out' | 'unsure' | null;
  /** value and uncertainty with their unit */
  words: string;
  /** along which it was measured, from end to end, mm in the project as it was then; empty where there is none */
  line: [number, number, number][];
  /** the bodies as they stood when it was measured; empty of an earlier version */
  bodies: { id: string; blob: string; transform: number[] }[];
}

/** Of how many datums a kind of measurement is taken; the rest is taken of the body (MeasureParameters.php). */
const DATUMS_OF: Readonly<Record<string, number>> = { distance: 2, angle: 2, step: 2, position: 2, length: 2, wall: 0, area: 0, volume: 0, box: 0 };

export const datumsOf = (kind: string): number => DATUMS_OF[kind] ?? 1;

/** What was measured, with what it had been when it was measured last in the same way. */
export interface Compared extends Measured {
  was: Pick<Measured, 'value' | 'words'> | null;
}

export function latest(all: readonly Measured[]): Compared[] {
  const byWay = new Map<string, Compared>();
  for (const m of all) {
    const before = byWay.get(m.way);
    // What is measured once more takes its old place in the list.
    byWay.set(m.way, { ...m, was: before ? { value: before.value, words: before.words } : null });
  }
  return [...byWay.values()];
}

/** By how much a value differs from what it had been: "0.012 mm more"; null where it does not by as much as is told. */
export function change({ value, was, unit }: Pick<Compared, 'value' | 'was' | 'unit'>): string | null {
  if (!was) return null;
  const sign = { mm: ' mm', deg: '°', mm2: ' mm²', mm3: ' mm³' }[unit] ?? '';
  const by = value - was.value;
  return Math.abs(by) < 5e-4 ? `as before (${was.words})` : `${Math.abs(by).toFixed(3)}${sign} ${by > 0 ? 'more' : 'less'} than before (${was.words})`;
}

/** What the steps that stand have measured, in their order. */
export const listed = (steps: readonly StepItem[]): Measured[] =>
  steps.flatMap((s) =>
    s.state === 'done' ? ((s.figures?.after.measurements as Omit<Measured, 'step' | 'way' | 'bodies'>[] | undefined) ?? []).map((m, k) => ({ ...m, line: m.line ?? [], step: s.id, way: `${k} ${JSON.stringify([s.parameters, s.on])}`, bodies: (s.figures?.after.measuredOn as Measured['bodies'] | undefined) ?? [] })) : [],
  );

/** Whether the bodies are and stand as they did when it was measured: else value and place are of what was. */
export const standsOn = (m: Pick<Measured, 'bodies'>, bodies: readonly BodyItem[]): boolean => m.bodies.length > 0 && m.bodies.every((was) => bodies.some((b) => b.id === was.id && b.blob === was.blob && b.transform.every((v, k) => v === was.transform[k])));

/** Lines and tabs, as tables take them when pasted. */
export function asTable(all: readonly Measured[]): string {
  const cell = (v: number | string | null): string => (v === null ? '' : String(v));
  return [['name', 'value', 'uncertainty (k = 2)', 'unit', 'nominal', 'plus', 'minus', 'verdict'], ...all.map((m) => [m.name, m.value, m.uncertainty, m.unit, m.nominal, m.plus, m.minus, m.verdict])].map((row) => row.map(cell).join('\t')).join('\n');
}

/** What was handed over of parts that have changed since, by ids. Deliveries of an earlier version do not say what they were of. */
export function changedSince(steps: readonly StepItem[], bodies: readonly BodyItem[]): Set<string> {
  return new Set(
    steps.flatMap((s) => {
      const { made = [], measuredOn = [] } = (s.figures?.after ?? {}) as { made?: string[]; measuredOn?: Measured['bodies'] };
      return s.state === 'done' && measuredOn.length > 0 && !standsOn({ bodies: measuredOn }, bodies) ? made : [];
    }),
  );
}
