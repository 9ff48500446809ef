/** What else is set in a form. */
export interface SetFields {
  values: Record<string, unknown>;
  picks: number;
  datumBy: string;
}

/** By operation, fields that what else is set leaves without a use: they are not shown. */
const NO_USE: Record<string, (name: string, set: SetFields) => boolean> = {
  'resolve-double-skin': (name, { values }) => name === 'agreeing' && values.by === 'moving',
  centre: (name, { values }) => name === 'axes' && values.smallestBox === true,
  turn: (name, { picks }) => name !== 'about' && picks > 0,
  'reshape-patch': (name, { values }) => name === 'blend' && values.shape === 'cover',
  // Lengths are clicked rather than typed twice.
  scale: (name) => name === 'measured' || name === 'actual',
  // What datums are made of decides their kind; only a click spreads, and not to where there is no surface.
  'add-datum': (name, { values, datumBy }) => (name === 'kind' && datumBy === 'datums') || (name === 'angle' && (datumBy !== 'click' || ['line', 'point', 'frame'].includes(String(values.kind)))),
};

export const hasNoUse = (operation: string, name: string, set: SetFields): boolean => NO_USE[operation]?.(name, set) ?? false;
