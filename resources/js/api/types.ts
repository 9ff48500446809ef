/** The types of what the server answers are generated: see schema.ts and bin/types. */
export type * from './schema';

/** Sixteen numbers, row by row. */
export type Matrix = readonly number[];
