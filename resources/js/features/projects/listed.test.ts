import { expect, it } from 'vitest';
import type { ProjectCard } from '../../api/types';
import { listed } from './listed';

const card = (name: string, more: Partial<ProjectCard> = {}) => ({ name, owner: 'Ada Orchard', archived: false, ready: 0, lines: 7, updatedAt: '2026-12-01T10:00:00Z', ...more }) as ProjectCard;
const projects = [card('Wheel 10', { ready: 7, updatedAt: '2026-12-02T10:00:00Z' }), card('Wheel 9', { ready: 2 }), card('Old cap', { archived: true }), card('Pedestal', { owner: 'Bo', updatedAt: '2026-11-01T10:00:00Z' })];
const names = (words: string, order: Parameters<typeof listed>[1]['order'] = 'changed', archived = false) => listed(projects, { words, order, archived }).map((p) => p.name);

it('finds projects by words of their name or their owner', () => {
  expect(names('wheel')).toEqual(['Wheel 10', 'Wheel 9']);
  expect(names('ada wheel 9')).toEqual(['Wheel 9']);
  expect(names('bo')).toEqual(['Pedestal']);
  expect(names('cap')).toEqual([]);
});
it('orders them by change, name and readiness', () => {
  expect(names('')).toEqual(['Wheel 10', 'Wheel 9', 'Pedestal']);
  expect(names('', 'name')).toEqual(['Pedestal', 'Wheel 9', 'Wheel 10']);
  expect(names('', 'unready')).toEqual(['Pedestal', 'Wheel 9', 'Wheel 10']);
});
it('keeps archived ones apart', () => expect(names('', 'changed', true)).toEqual(['Old cap']));
