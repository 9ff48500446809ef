import type { ParameterInfo } from '../../api/types';

/** What else is set in a form. */
export interface SetFields {
  values: Record<string, unknown>;
  picks: number;
  datumBy: string;
}

/** By operation, fields that picks leave without a use, or that are no words of the catalogue: they are not shown. */
const NO_USE: Record<string, (name: string, set: SetFields) => boolean> = {
  turn: (name, { picks }) => name !== 'about' && picks > 0,
  'reshape-patch': (name, { values }) => name === 'blend' && values.shape === 'cover',
  // Lengths are clicked rather than typed twice.
  scale: (name) => name === 'measured' || name === 'actual',
  // What datums are made of decides their kind; only a click spreads, and not to where there is no surface.
  'add-datum': (name, { values, datumBy }) => (name === 'kind' && datumBy === 'datums') || (name === 'angle' && (datumBy !== 'click' || ['line', 'point', 'frame'].includes(String(values.kind)))),
};

/** Are the other parameters set so that this one is of use? */
export const isOfUse = (p: Pick<ParameterInfo, 'with'>, values: Record<string, unknown>): boolean => p.with.every(({ name, value }) => (values[name] ?? null) === value);

export const hasNoUse = (operation: string, p: Pick<ParameterInfo, 'name' | 'with'>, set: SetFields): boolean => !isOfUse(p, set.values) || (NO_USE[operation]?.(p.name, set) ?? false);
