import { describe, expect, it } from 'vitest';
import type { Hit } from '../../tools/events';
import { COLOURS, commands, createViewStore, initialView } from './store';

function workspace() {
  const store = createViewStore();
  return { store, does: commands(store), now: () => store.getState() };
}

const gesture = { picks: [{} as Hit], selectTool: 'brush' as const, framePreview: { transform: [], locks: {}, idle: [], plusMinus: {}, whole: true } };

describe('commands of the window', () => {
  it.each([
    ['another stage', (w: ReturnType<typeof workspace>) => w.does.goTo('mend')],
    ['a tool', (w: ReturnType<typeof workspace>) => w.does.openOperation('fuse')],
    ['no tool', (w: ReturnType<typeof workspace>) => w.does.openOperation(null)],
  ])('%s puts step details and half-made gestures away', (_, act) => {
    const w = workspace();
    w.store.setState({ openStep: 7, ...gesture });
    act(w);
    expect(w.now()).toMatchObject({ openStep: null, picks: [], selection: [], selectTool: null, framePreview: null, datumPreview: null });
  });
  it('another stage closes the tool, a tool may bring its stage', () => {
    const w = workspace();
    w.does.openOperation('fuse', 'fuse');
    expect(w.now()).toMatchObject({ openOperation: 'fuse', stage: 'fuse' });
    w.does.openOperation('repair');
    expect(w.now().stage).toBe('fuse');
    w.does.goTo('mend');
    expect(w.now()).toMatchObject({ openOperation: null, stage: 'mend' });
  });
  it('hiding twice shows again, and showing one hides all others', () => {
    const w = workspace();
    w.does.toggle('a');
    expect(w.now().hidden).toEqual({ a: true });
    w.does.toggle('a');
    expect(w.now().hidden.a).toBe(false);
    w.does.showOnly(['b'], ['a', 'b', 'c']);
    expect(w.now().hidden).toEqual({ a: true, b: false, c: true });
    w.does.setHidden({ c: false });
    expect(w.now().hidden).toEqual({ a: true, b: false, c: false });
  });
  it('colours go round through all there are', () => {
    const w = workspace();
    const seen = COLOURS.map(() => {
      w.does.nextColours();
      return w.now().colours;
    });
    expect(new Set(seen).size).toBe(COLOURS.length);
    expect(w.now().colours).toBe(initialView.colours);
  });
  it('a step that is done again opens with what it was told and its picks, and another one without', () => {
    const w = workspace();
    const picks = [{ itemId: 'p', kind: 'pass' as const, index: 0, pointMm: [1, 2, 3] as [number, number, number] }];
    w.does.reopen('pair-points', 'register', { moving: 'p' }, { picks });
    expect(w.now()).toMatchObject({ openOperation: 'pair-points', stage: 'register', picks, prefill: { operation: 'pair-points', values: { moving: 'p' } } });
    w.does.openOperation('move');
    expect(w.now()).toMatchObject({ prefill: null, picks: [] });
  });
  it('a cleared gesture leaves the open tool and what is hidden', () => {
    const w = workspace();
    w.does.openOperation('add-datum', 'orient');
    w.does.toggle('a');
    w.store.setState(gesture);
    w.does.clearGesture();
    expect(w.now()).toMatchObject({ openOperation: 'add-datum', stage: 'orient', hidden: { a: true }, picks: [], selectTool: null });
  });
  it('dropped picks leave what is shown aside where it is picked on; an applied tool puts it back', () => {
    const w = workspace();
    w.does.openOperation('pair-points');
    w.store.setState({ ...gesture, aside: ['p'], pickHint: { itemId: 'p', pointMm: [1, 2, 3] } });
    w.does.dropPicks();
    expect(w.now()).toMatchObject({ openOperation: 'pair-points', picks: [], aside: ['p'], pickHint: null });
    w.does.clearGesture();
    expect(w.now().aside).toBeNull();
  });
});
