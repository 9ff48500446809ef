import { describe, expect, it } from 'vitest';
import type { Hit, Tool, ToolEvent } from './events';
import { clickTool } from './click/clickTool';
import { type OutlineShape, outlineTool } from './outline/outlineTool';
import { pickPointsTool } from './pickPoints/pickPointsTool';

const hit = (x: number): Hit => ({ itemId: 'body', kind: 'body', index: x, pointMm: [x, 0, 0] });

function drive<S, E>(tool: Tool<S, E>, events: ToolEvent[]): { state: S; effects: E[] } {
  let state = tool.initial;
  const effects: E[] = [];
  for (const event of events) {
    const next = tool.step(state, event);
    state = next.state;
    effects.push(...next.effects);
  }
  return { state, effects };
}

function randomEvents(seed: number, many: number): ToolEvent[] {
  let s = seed;
  const random = () => {
    s = (s * 1103515245 + 12345) & 0x7fffffff;
    return s / 0x7fffffff;
  };
  const types = ['down', 'move', 'up', 'complete', 'removeLast', 'interrupt'] as const;
  return Array.from({ length: many }, () => {
    const type = types[Math.floor(random() * types.length)] ?? 'move';
    const at = { x: random() * 20, y: random() * 20 };
    return type === 'down' || type === 'move' || type === 'up' ? { type, at, ...(random() < 0.5 ? { hit: hit(1) } : {}) } : { type };
  });
}

const SHAPES: OutlineShape[] = ['freehand', 'rectangle', 'polygon', 'brush'];

describe('every tool', () => {
  it.each([1, 2, 3, 4, 5])('is idle again after cancel, whatever came before (seed %i)', (seed) => {
    for (const tool of [pickPointsTool, clickTool, ...SHAPES.map(outlineTool)] as Tool<{ name: string }, unknown>[]) {
      const { state } = drive(tool, [...randomEvents(seed, 4000), { type: 'cancel' }]);
      expect(state.name).toBe('idle');
    }
  });
});

describe('picking points', () => {
  const click = (x: number, h?: Hit): ToolEvent[] => [
    { type: 'down', at: { x, y: 0 } },
    { type: 'up', at: { x, y: 0 }, ...(h ? { hit: h } : {}) },
  ];
  it('a pick that is dragged goes along on the part, and stays where it was last beside it', () => {
    const at = (x: number) => ({ x, y: 0 });
    const { state, effects } = drive(pickPointsTool, [...click(1, hit(1)), ...click(50, hit(2)), { type: 'down', at: at(1), onPick: 0 }, { type: 'move', at: at(3), hit: hit(7) }, { type: 'move', at: at(20), hit: hit(8) }, { type: 'move', at: at(30) }, { type: 'up', at: at(30), hit: hit(9) }]);
    expect(state.picks).toEqual([hit(8), hit(2)]);
    expect(effects.at(-1)).toEqual({ type: 'showPicks', picks: [hit(8), hit(2)] });
  });
  it('a press on a pick that does not move is a click', () => {
    const { state } = drive(pickPointsTool, [...click(1, hit(1)), { type: 'down', at: { x: 1, y: 0 }, onPick: 0 }, { type: 'up', at: { x: 1, y: 0 }, hit: hit(3) }]);
    expect(state.picks).toEqual([hit(1), hit(3)]);
  });
  it('collects clicks in order and removes the last on Backspace', () => {
    const { state } = drive(pickPointsTool, [...click(0, hit(1)), ...click(5, hit(2)), { type: 'removeLast' }, ...click(9, hit(3))]);
    expect(state.picks.map((p) => p.index)).toEqual([1, 3]);
  });
  it('takes a drag for a turn of the view and a click beside the part for nothing', () => {
    const { state } = drive(pickPointsTool, [{ type: 'down', at: { x: 0, y: 0 } }, { type: 'up', at: { x: 30, y: 0 }, hit: hit(1) }, ...click(3)]);
    expect(state.picks).toHaveLength(0);
  });
  it('applies on Enter only when something is picked', () => {
    expect(drive(pickPointsTool, [{ type: 'complete' }]).effects).toEqual([]);
    expect(drive(pickPointsTool, [...click(0, hit(1)), { type: 'complete' }]).effects.at(-1)).toEqual({ type: 'apply' });
  });
});

describe('an outline', () => {
  const at = (x: number, y: number) => ({ x, y });
  const down = (x: number, y: number): ToolEvent => ({ type: 'down', at: at(x, y) });
  const move = (x: number, y: number): ToolEvent => ({ type: 'move', at: at(x, y) });
  const up = (x: number, y: number): ToolEvent => ({ type: 'up', at: at(x, y) });
  const last = (shape: OutlineShape, events: ToolEvent[]) => drive(outlineTool(shape), events).effects.at(-1);
  it('drawn freely selects inside its path when the button is let go', () => {
    expect(last('freehand', [down(0, 0), move(10, 0), move(11, 0), move(10, 10), up(10, 10)])).toEqual({ type: 'selectInside', path: [at(0, 0), at(10, 0), at(10, 10)] });
    expect(last('freehand', [down(0, 0), move(10, 0), up(10, 0)])).toEqual({ type: 'clearOverlay' });
  });
  it('as a rectangle spans from the press to where the button is let go, and a click is none', () => {
    expect(last('rectangle', [down(2, 3), move(5, 5), move(20, 30), up(20, 30)])).toEqual({ type: 'selectInside', path: [at(2, 3), at(20, 3), at(20, 30), at(2, 30)] });
    expect(last('rectangle', [down(2, 3), up(2, 3)])).toEqual({ type: 'clearOverlay' });
  });
  it('as a polygon takes a corner a click, takes one back, and closes on Enter or on its first corner', () => {
    const click = (x: number, y: number) => [down(x, y), up(x, y)];
    const corners = [...click(0, 0), ...click(50, 0), ...click(99, 99), { type: 'removeLast' } as const, ...click(50, 50)];
    const path = [at(0, 0), at(50, 0), at(50, 50)];
    expect(last('polygon', [...corners, { type: 'complete' }])).toEqual({ type: 'selectInside', path });
    expect(last('polygon', [...corners, ...click(3, 2)])).toEqual({ type: 'selectInside', path });
    expect(last('polygon', [...click(0, 0), ...click(50, 0), { type: 'complete' }])).toEqual({ type: 'clearOverlay' });
  });
  it('with the brush counts from the first touch', () => {
    expect(last('brush', [down(4, 4), up(4, 4)])).toEqual({ type: 'selectInside', path: [at(4, 4)] });
    expect(last('brush', [down(4, 4), move(9, 4), { type: 'cancel' }])).toEqual({ type: 'clearOverlay' });
  });
});

describe('a click', () => {
  it('counts on the part, and neither beside it nor as a drag', () => {
    const press: ToolEvent = { type: 'down', at: { x: 0, y: 0 } };
    expect(drive(clickTool, [press, { type: 'up', at: { x: 2, y: 2 }, hit: hit(7) }]).effects).toEqual([{ type: 'clicked', hit: hit(7) }]);
    expect(drive(clickTool, [press, { type: 'up', at: { x: 2, y: 2 } }]).effects).toEqual([]);
    expect(drive(clickTool, [press, { type: 'up', at: { x: 20, y: 2 }, hit: hit(7) }]).effects).toEqual([]);
  });
});
