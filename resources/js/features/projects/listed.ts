import type { ProjectCard } from '../../api/types';

export const ORDERS = [
  { order: 'changed', label: 'last changed first' },
  { order: 'name', label: 'by name' },
  { order: 'unready', label: 'least ready first' },
] as const;

export type Order = (typeof ORDERS)[number]['order'];

/** Of lines of the ready card, those that are met; a project without any has none. */
const readiness = (p: ProjectCard): number => (p.lines > 0 ? p.ready / p.lines : 0);

const COMPARE: Record<Order, (a: ProjectCard, b: ProjectCard) => number> = {
  changed: (a, b) => Date.parse(b.updatedAt) - Date.parse(a.updatedAt),
  name: (a, b) => a.name.localeCompare(b.name, undefined, { numeric: true, sensitivity: 'base' }),
  unready: (a, b) => readiness(a) - readiness(b) || COMPARE.changed(a, b),
};

/** The projects that hold every typed word in their name or that of their owner, archived ones or the others, in order. */
export function listed(projects: readonly ProjectCard[], { words, order, archived }: { words: string; order: Order; archived: boolean }): ProjectCard[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  return projects.filter((p) => p.archived === archived && wanted.every((word) => `${p.name} ${p.owner}`.toLowerCase().includes(word))).sort(COMPARE[order]);
}
