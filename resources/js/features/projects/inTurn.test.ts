import { describe, expect, it } from 'vitest';
import { InTurn } from './inTurn';

describe('what is made in turn', () => {
  it('is made once for a key, and the next only when it is done', async () => {
    const turns = new InTurn<string>();
    const log: string[] = [];
    const done: (() => void)[] = [];
    const make = (name: string) => () => {
      log.push(name);
      return new Promise<string>((resolve) => done.push(() => resolve(name)));
    };
    const [a, b, again] = [turns.of('a', make('a')), turns.of('b', make('b')), turns.of('a', make('never'))];
    await Promise.resolve();
    expect(log).toEqual(['a']);
    done[0]!();
    expect([await a, await again]).toEqual(['a', 'a']);
    await Promise.resolve();
    expect(log).toEqual(['a', 'b']);
    done[1]!();
    expect(await b).toBe('b');
  });

  it('holds nothing up when it fails, and is made anew when asked for again', async () => {
    const turns = new InTurn<number>();
    const failed = turns.of('a', () => Promise.reject(new Error('gone')));
    const next = turns.of('b', () => Promise.resolve(2));
    await expect(failed).rejects.toThrow('gone');
    expect(await next).toBe(2);
    expect(await turns.of('a', () => Promise.resolve(1))).toBe(1);
  });
});
