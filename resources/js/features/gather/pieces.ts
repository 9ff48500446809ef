const MB = 1024 * 1024;

/** Bytes of a piece that is sent at once; the web server takes no more than 128 MB. */
export const PIECE = { least: 4 * MB, first: 16 * MB, most: 112 * MB } as const;

/** What a lost connection may cost, milliseconds: a piece that was cut off is sent once more. */
const WANTED_MS = 1000;

/** How much to send next when some bytes took some time: what takes about a second, at most four times as much as before. */
export function nextPiece(bytes: number, ms: number): number {
  const right = (bytes * WANTED_MS) / Math.max(1, ms);
  return Math.round(Math.min(PIECE.most, Math.max(PIECE.least, Math.min(right, 4 * bytes))));
}
