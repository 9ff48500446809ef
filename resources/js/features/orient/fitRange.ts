/** The distance from a fit at which its colours end, mm: three times its error, never nothing. */
export const fitRange = (rms: number): number => Math.max(0.001, 3 * rms);
