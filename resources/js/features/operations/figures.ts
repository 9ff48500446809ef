/** Figures that steps measure and that are told by themselves: what each is, its unit, and how many digits mean something. Other keys are for reports with a picture of their own. */
const KNOWN: Record<string, { label: string; unit: string; digits: number }> = {
  faces: { label: 'Faces', unit: '', digits: 0 },
  points: { label: 'Points', unit: '', digits: 0 },
  holes: { label: 'Open rims', unit: '', digits: 0 },
  faults: { label: 'Faults', unit: '', digits: 0 },
  pieces: { label: 'Pieces', unit: '', digits: 0 },
  spikes: { label: 'Spikes', unit: '', digits: 0 },
  bodies: { label: 'Bodies', unit: '', digits: 0 },
  passes: { label: 'Passes', unit: '', digits: 0 },
  outliers: { label: 'Outliers', unit: '', digits: 0 },
  removed: { label: 'Taken out', unit: '', digits: 0 },
  deviation: { label: 'Farthest from before', unit: 'mm', digits: 4 },
  maxShift: { label: 'Farthest shift', unit: 'mm', digits: 4 },
  rmsShift: { label: 'Shift, root mean square', unit: 'mm', digits: 4 },
  residual: { label: 'Residual', unit: 'mm', digits: 4 },
  factor: { label: 'Factor', unit: '', digits: 6 },
};

const number = (value: number, digits: number): string => value.toLocaleString('en', { maximumFractionDigits: digits });

/** "Faces", "89,214 → 8,921": what a step measured before and after it, where that is a plain number. */
export function figureLines({ before, after }: { before: Record<string, unknown>; after: Record<string, unknown> }): [string, string][] {
  return Object.entries(KNOWN).flatMap(([key, { label, unit, digits }]): [string, string][] => {
    const [was, is] = [before[key], after[key]];
    if (typeof is !== 'number') return [];
    const sign = unit === '' ? '' : ` ${unit}`;
    return [[label, typeof was === 'number' && was !== is ? `${number(was, digits)} → ${number(is, digits)}${sign}` : `${number(is, digits)}${sign}`]];
  });
}
