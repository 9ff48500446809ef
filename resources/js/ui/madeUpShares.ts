import type { MeshFigures } from '../api/types';

/** How surface that was not measured came to be, with its hatch in the view. */
const MADE_UP = [
  { name: 'filled', sign: 'hatch' },
  { name: 'strip', sign: 'hatch-cross' },
  { name: 'reshaped', sign: 'hatch-back' },
  { name: 'closed in the volume', sign: 'hatch-level' },
  { name: 'smoothed', sign: 'hatch-upright' },
  { name: 'made', sign: 'hatch-dots' },
] as const;

export interface Share {
  name: string;
  sign: string;
  percent: string;
}

/** What the legend says of made-up surface: each way with its share of the area; that nothing was filled when nothing was made up at all. */
export const madeUpShares = ({ measured, madeUp }: Pick<MeshFigures, 'measured' | 'madeUp'>): Share[] => {
  // Figures of bodies from before there were several ways know filled surface only.
  const shares: Record<string, number> = madeUp ?? { filled: 1 - measured };
  const told = MADE_UP.filter(({ name }) => (shares[name] ?? 0) > 0);
  return (told.length > 0 ? told : MADE_UP.slice(0, 1)).map(({ name, sign }) => ({ name, sign, percent: (100 * (shares[name] ?? 0)).toFixed(1) }));
};
