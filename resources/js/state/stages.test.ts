import { describe, expect, it } from 'vitest';
import { aMesh, aPass, aProject, aStep } from '../test/project';
import { STAGES, stageStates } from './stages';

const stageOf = (operation: string) => ({ register: 'register', fuse: 'fuse', 'fill-holes': 'mend', import: 'gather' })[operation];
const states = (over: Parameters<typeof aProject>[0] = {}) => stageStates(aProject(over), stageOf);

describe('the rail', () => {
  it('of an empty project asks for passes and nothing else', () => {
    expect(states()).toEqual({ gather: 'todo', register: 'nothing', fuse: 'nothing', mend: 'nothing', lighten: 'nothing', orient: 'nothing', deliver: 'nothing' });
  });
  it('asks to register two passes, but not one', () => {
    expect(states({ passes: [aPass('a')] })).toMatchObject({ gather: 'done', register: 'nothing', fuse: 'todo' });
    expect(states({ passes: [aPass('a'), aPass('b')] }).register).toBe('todo');
    expect(states({ passes: [aPass('a'), aPass('b')], steps: [aStep(1, 'register')] }).register).toBe('done');
  });
  it('does not take a failed or undone step for done', () => {
    for (const state of ['failed', 'stopped', 'set-aside'] as const) expect(states({ passes: [aPass('a'), aPass('b')], steps: [aStep(1, 'register', state)] }).register).toBe('todo');
  });
  it('shows a running or waiting step over everything', () => {
    for (const state of ['running', 'waiting'] as const) expect(states({ bodies: [aMesh('m')], steps: [aStep(1, 'fill-holes', state)] }).mend).toBe('running');
  });
  it('takes mending from to do over another look to done', () => {
    const mend = (ready: Record<string, 'good' | 'warn' | 'bad'>) => states({ bodies: [aMesh('m')], ready }).mend;
    expect(mend({})).toBe('todo');
    expect(mend({ closed: 'good', sound: 'warn' })).toBe('look');
    expect(mend({ closed: 'good', sound: 'good' })).toBe('done');
  });
  it('offers delivery when no line of the ready card is bad', () => {
    const all = Object.fromEntries(['closed', 'sound', 'scale', 'oriented', 'light', 'faithful', 'measured'].map((k) => [k, 'good' as const]));
    expect(states({ bodies: [aMesh('m')], ready: { ...all, light: 'bad' } }).deliver).toBe('nothing');
    expect(states({ bodies: [aMesh('m')], ready: { ...all, light: 'warn' } }).deliver).toBe('todo');
  });
  it('knows every stage once', () => {
    expect(Object.keys(states())).toEqual(STAGES.map((s) => s.name));
  });
});
