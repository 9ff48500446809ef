/** Planes of the frame, by the axes that lie in them (PlaneChoice.php), and the way they face. */
export const FRAME_PLANES: readonly { id: string; name: string; normal: [number, number, number] }[] = [
  { id: 'XY', name: 'XY of the frame', normal: [0, 0, 1] },
  { id: 'YZ', name: 'YZ of the frame', normal: [1, 0, 0] },
  { id: 'ZX', name: 'ZX of the frame', normal: [0, 1, 0] },
];
