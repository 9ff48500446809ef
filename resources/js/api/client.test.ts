import { afterEach, expect, it, vi } from 'vitest';
import { api } from './client';

afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

/** A server that answers with a new step for each request that reaches it. */
function server(): { bodies: Record<string, unknown>[] } {
  const bodies: Record<string, unknown>[] = [];
  vi.stubGlobal('document', { querySelector: () => null });
  vi.stubGlobal('fetch', async (_: string, init: RequestInit) => {
    bodies.push(JSON.parse(String(init.body)) as Record<string, unknown>);
    return new Response(JSON.stringify({ id: bodies.length }), { status: 202, headers: { 'Content-Type': 'application/json' } });
  });
  return { bodies };
}

it('asks once for a step whose button was pressed twice, and again after a second thought', async () => {
  vi.useFakeTimers();
  const { bodies } = server();
  const [one, two] = await Promise.all([api.addStep('p', 'decimate', { ratio: 0.5 }), api.addStep('p', 'decimate', { ratio: 0.5 })]);
  expect([one.id, two.id]).toEqual([1, 1]);
  expect((await api.addStep('p', 'decimate', { ratio: 0.5 })).id).toBe(1);
  expect((await api.addStep('p', 'decimate', { ratio: 0.4 })).id).toBe(2);
  vi.advanceTimersByTime(600);
  expect((await api.addStep('p', 'decimate', { ratio: 0.5 })).id).toBe(3);
  expect(bodies.map((body) => body.key)).toHaveLength(new Set(bodies.map((body) => body.key)).size);
  expect(String(bodies[0]?.key)).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
});

it('asks anew after a failure', async () => {
  vi.stubGlobal('document', { querySelector: () => null });
  let calls = 0;
  vi.stubGlobal('fetch', async () => {
    calls++;
    return new Response(calls === 1 ? '{"message": "no"}' : '{"id": 7}', { status: calls === 1 ? 500 : 202 });
  });
  await expect(api.addStep('p', 'smooth', {})).rejects.toThrow('no');
  expect((await api.addStep('p', 'smooth', {})).id).toBe(7);
});
