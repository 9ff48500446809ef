import type { DatumKind } from '../../api/types';

/** One datum of a frame, as the server takes it (SetFrameParameters). */
export interface FrameChoice {
  datum: string;
  to?: string | undefined;
  flip?: boolean;
}

export const PLACES = ['first', 'second', 'third'] as const;

/** A choice as a step holds it: the datum by its name alone, or with what becomes of it. */
export const toChoice = (value: unknown): FrameChoice | null => (typeof value === 'string' && value !== '' ? { datum: value } : value ? (value as FrameChoice) : null);

const AXES = ['X', 'Y', 'Z'] as const;
const SIDES = ['XY', 'YZ', 'XZ'] as const;

/** Whether there is another way round: a point has one only as a direction from the origin. */
export const hasWay = (kind: DatumKind, to: string | undefined): boolean => (kind !== 'point' && kind !== 'sphere') || to?.length === 1;

/** What a datum of a kind can become in a frame; the empty one leaves it to what is still open. */
export function becomes(kind: DatumKind): { to: string; label: string }[] {
  const open = { to: '', label: 'as it fits' };
  const planes = SIDES.map((to) => ({ to, label: `in ${to}` }));
  if (kind === 'plane') return [open, ...planes];
  if (kind === 'point' || kind === 'sphere') return [open, { to: 'origin', label: 'the origin' }, ...AXES.map((to) => ({ to, label: `on ${to}` })), ...planes];
  return [open, ...AXES.map((to) => ({ to, label: `along ${to}` })), ...planes];
}
