/** Points drawn at most, over all clouds: while the view moves, and when it rests. */
export const BUDGET = { moving: 1_500_000, resting: 6_000_000 } as const;

/** One point in a number of them comes first, then the ones between: any beginning of the order is spread evenly over the cloud. */
const STRIDE = 16;

/** The indices of the points that are kept (or of the others), in an order whose beginning stands for the whole. */
export function spreadOrder(count: number, mask: Uint8Array | null, kept = true): Uint32Array {
  const order = new Uint32Array(count);
  let n = 0;
  for (let first = 0; first < STRIDE; first++) {
    // Halves before quarters before eighths: 0, 8, 4, 12, 2, ...
    const from = ((first & 1) << 3) | ((first & 2) << 1) | ((first & 4) >> 1) | ((first & 8) >> 3);
    for (let i = from; i < count; i += STRIDE) if ((mask?.[i] !== 0) === kept) order[n++] = i;
  }
  return order.subarray(0, n);
}

/** Which share of every cloud is drawn so that all together keep to the budget. */
export const shareOf = (points: number, budget: number): number => (points <= budget ? 1 : budget / points);
