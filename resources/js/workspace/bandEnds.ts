/** Where along a scale of colours the ends of a tolerance are marked, in hundredths of its length; none that lie off it. */
export function bandEnds({ from, to, band }: { from: number; to: number; band?: number | null | undefined }): number[] {
  if (!band || to <= from) return [];
  return [-band, band].map((v) => (100 * (v - from)) / (to - from)).filter((at) => at > 0 && at < 100);
}
