/** What is known of a target that fixed sensors look at, as Solve fixture takes it (docs/fixture.md). */
export interface Target {
  /** mm; left out where the target has no balls */
  diameter?: number;
  /** centres, mm */
  balls: number[][];
  /** a place on each flat face, mm, and its outward normal */
  planes: number[][];
}

const areNumbers = (rows: unknown, many: number): rows is number[][] => Array.isArray(rows) && rows.every((row) => Array.isArray(row) && row.length === many && row.every((v) => typeof v === 'number' && Number.isFinite(v)));

/** Reads the file of a target; throws what is wrong with it, in words. */
export function readTarget(text: string): Target {
  let file: unknown;
  try {
    file = JSON.parse(text);
  } catch {
    throw new Error('is not JSON');
  }
  const { target, unit = 'mm', diameter, balls = [], planes = [] } = (typeof file === 'object' && file !== null ? file : {}) as Record<string, unknown>;
  if (target !== 1) throw new Error('is not a target of version 1: "target": 1 is missing');
  if (unit !== 'mm') throw new Error('is not in millimetres; "unit" must be "mm"');
  if (!areNumbers(balls, 3)) throw new Error('needs three numbers for every ball: its centre');
  if (!areNumbers(planes, 6)) throw new Error('needs six numbers for every flat face: a place on it and its outward normal');
  if (balls.length + planes.length < 3) throw new Error(`has ${balls.length} balls and ${planes.length} flat faces; a pose needs three or more in all`);
  if (balls.length > 0 && !(typeof diameter === 'number' && diameter > 0)) throw new Error('has balls, but not their "diameter" in mm');
  return { ...(balls.length > 0 ? { diameter: diameter as number } : {}), balls, planes };
}

const many = (count: number, one: string) => `${count} ${one}${count === 1 ? '' : 's'}`;

/** "4 balls, 2 flat faces". */
export const targetInWords = ({ balls, planes }: Target): string => [...(balls.length > 0 ? [many(balls.length, 'ball')] : []), ...(planes.length > 0 ? [many(planes.length, 'flat face')] : [])].join(', ');
