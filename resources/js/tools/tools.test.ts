import { describe, expect, it } from 'vitest';
import type { Hit, Tool, ToolEvent } from './events';
import { isInside, outlineTool } from './outline/outlineTool';
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

describe('every tool', () => {
  it.each([1, 2, 3, 4, 5])('is idle again after cancel, whatever came before (seed %i)', (seed) => {
    for (const tool of [pickPointsTool, outlineTool] as Tool<{ name: string }, unknown>[]) {
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
  it('selects inside the drawn path when the button is let go', () => {
    const path = [
      { x: 0, y: 0 },
      { x: 10, y: 0 },
      { x: 10, y: 10 },
    ];
    const { effects } = drive(outlineTool, [{ type: 'down', at: path[0]! }, { type: 'move', at: path[1]! }, { type: 'move', at: path[2]! }, { type: 'up', at: path[2]! }]);
    expect(effects.at(-1)).toEqual({ type: 'selectInside', path });
  });
  it('knows inside from outside of a concave path', () => {
    const u = [[0, 0], [9, 0], [9, 9], [6, 9], [6, 3], [3, 3], [3, 9], [0, 9]].map(([x, y]) => ({ x: x!, y: y! }));
    expect([isInside(u, 1, 8), isInside(u, 4.5, 8), isInside(u, 8, 8), isInside(u, 4.5, 1)]).toEqual([true, false, true, true]);
  });
});
