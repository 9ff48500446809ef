import type { Values } from './module';

/** Sizes are told by the length of an edge or by the number of faces, and by one of them alone. */
export const edgeOrFaces = (sent: Values): string | null => ([sent.edge, sent.faces].filter((v) => v !== undefined).length === 1 ? null : 'Fill in one of edge and faces.');
