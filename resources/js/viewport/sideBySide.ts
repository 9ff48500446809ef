import type { Box } from '../tools/cropBox/box';

/** How far each of some boxes is shifted along X to stand in a row, the first in its place, a tenth of the widest apart. */
export function inARow(boxes: readonly Pick<Box, 'centre' | 'size'>[]): number[] {
  const gap = 0.1 * Math.max(0, ...boxes.map((b) => b.size[0]));
  let at = boxes[0] ? boxes[0].centre[0] - boxes[0].size[0] / 2 : 0;
  return boxes.map((b) => {
    const by = at - (b.centre[0] - b.size[0] / 2);
    at += b.size[0] + gap;
    return by;
  });
}
