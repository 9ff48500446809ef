import type { OperationInfo, ProjectState } from '../../api/types';

interface Thing {
  id: string;
  name: string;
}

export interface WorksOn {
  /** what the server is told: ids, or null for all that it can work on */
  on: string[] | null;
  /** the same in words: "Cap", "3 of 8 passes" */
  words: string;
  /** what it can work on */
  suits: Thing[];
  /** ids of those that it will */
  ids: string[];
  /** all of them are out of sight, and nobody has chosen them: they must be asked for */
  isUnseen: boolean;
}

/** What an operation can work on, by kind. */
function suiting(operation: OperationInfo, { passes, bodies }: ProjectState['snapshot']): { passes: Thing[]; bodies: Thing[] } {
  const meshes = bodies.filter((b) => b.kind === 'mesh');
  return { passes: operation.needs === 'meshes' || operation.needs === 'bodies' ? [] : passes, bodies: operation.needs === 'passes' ? [] : operation.needs === 'meshes' ? meshes : bodies };
}

const plural = (noun: string, n: number): string => (n === 1 ? noun : noun === 'body' ? 'bodies' : `${noun}es`);

/** "all 8 passes", "2 of 3 bodies"; the name where there is one alone, nothing where there is none. */
function share(some: readonly Thing[], all: readonly Thing[], noun: 'pass' | 'body'): string | null {
  if (some.length === 0) return null;
  if (some.length === 1) return some[0]?.name ?? '';
  return some.length === all.length ? `all ${all.length} ${plural(noun, all.length)}` : `${some.length} of ${all.length} ${plural(noun, all.length)}`;
}

const together = (ids: readonly string[], { passes, bodies }: { passes: readonly Thing[]; bodies: readonly Thing[] }): string =>
  [
    share(
      bodies.filter((b) => ids.includes(b.id)),
      bodies,
      'body',
    ),
    share(
      passes.filter((p) => ids.includes(p.id)),
      passes,
      'pass',
    ),
  ]
    .filter(Boolean)
    .join(' and ');

/** What some passes and bodies are called together. */
export const inWordsOn = (ids: readonly string[], snapshot: Pick<ProjectState['snapshot'], 'passes' | 'bodies'>): string => together(ids, snapshot) || 'things that are gone';

/** What a step will work on: what is chosen in the tray, else all shown that suit, else all that are hidden once they are asked for; null for operations that are told by picks. A frame or a scale takes what is hidden along. */
export function worksOn(operation: OperationInfo, snapshot: ProjectState['snapshot'], chosen: readonly string[], hidden: Readonly<Record<string, boolean>>): WorksOn | null {
  if (operation.on === null) return null;
  const { passes, bodies } = suiting(operation, snapshot);
  const suits = [...bodies, ...passes];
  const marked = suits.filter((s) => chosen.includes(s.id));
  const shown = operation.on === 'together' ? suits : suits.filter((s) => !hidden[s.id]);
  const some = marked.length > 0 ? marked : shown.length > 0 ? shown : suits;
  const ids = some.map((s) => s.id);
  return { on: ids.length === suits.length ? null : ids, words: operation.on === 'together' && ids.length === suits.length && suits.length > 1 ? 'everything' : together(ids, { passes, bodies }), suits, ids, isUnseen: suits.length > 0 && marked.length + shown.length === 0 };
}
