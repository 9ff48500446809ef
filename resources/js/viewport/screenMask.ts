import type { ScreenPoint } from '../tools/events';

/** A byte a CSS pixel of the view, one inside the closed path (even-odd rule, at the middles of pixels). */
export function polygonMask(path: readonly ScreenPoint[], width: number, height: number): Uint8Array {
  const mask = new Uint8Array(width * height);
  for (let row = 0; row < height; row++) {
    const y = row + 0.5;
    const crossings: number[] = [];
    for (let i = 0, j = path.length - 1; i < path.length; j = i++) {
      const a = path[i]!;
      const b = path[j]!;
      if (a.y > y !== b.y > y) crossings.push(((b.x - a.x) * (y - a.y)) / (b.y - a.y) + a.x);
    }
    crossings.sort((a, b) => a - b);
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const from = Math.max(0, Math.ceil(crossings[k]! - 0.5));
      const to = Math.min(width, Math.ceil(crossings[k + 1]! - 0.5));
      if (to > from) mask.fill(1, row * width + from, row * width + to);
    }
  }
  return mask;
}

/** A byte a pixel, one within the radius of the path. */
export function strokeMask(path: readonly ScreenPoint[], radius: number, width: number, height: number): Uint8Array {
  const mask = new Uint8Array(width * height);
  for (let k = 0; k < path.length; k++) {
    const a = path[Math.max(0, k - 1)]!;
    const b = path[k]!;
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const lengthSq = dx * dx + dy * dy;
    for (let y = Math.max(0, Math.floor(Math.min(a.y, b.y) - radius)); y < Math.min(height, Math.max(a.y, b.y) + radius + 1); y++) {
      for (let x = Math.max(0, Math.floor(Math.min(a.x, b.x) - radius)); x < Math.min(width, Math.max(a.x, b.x) + radius + 1); x++) {
        const t = lengthSq > 0 ? Math.max(0, Math.min(1, ((x + 0.5 - a.x) * dx + (y + 0.5 - a.y) * dy) / lengthSq)) : 0;
        if ((x + 0.5 - a.x - t * dx) ** 2 + (y + 0.5 - a.y - t * dy) ** 2 <= radius * radius) mask[y * width + x] = 1;
      }
    }
  }
  return mask;
}

/** Whether a place of the view lies inside a closed path (even-odd rule). */
export function inside(at: ScreenPoint, path: readonly ScreenPoint[]): boolean {
  let isInside = false;
  for (let i = 0, j = path.length - 1; i < path.length; j = i++) {
    const a = path[i]!;
    const b = path[j]!;
    if (a.y > at.y !== b.y > at.y && at.x < ((b.x - a.x) * (at.y - a.y)) / (b.y - a.y) + a.x) isInside = !isInside;
  }
  return isInside;
}
