import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { describe, expect, it } from 'vitest';
import { LimitNote } from './LimitNote';

const said = (length: number) => renderToStaticMarkup(createElement(LimitNote, { text: 'x'.repeat(length), max: 60 })).replace(/<[^>]*>/g, '');

describe('the room that is left in a field', () => {
  it('is said before there is none', () => {
    expect(said(53)).toBe('');
    expect(said(54)).toBe('6 of 60 characters left.');
    expect(said(60)).toBe('No room for more: 60 characters at most.');
  });
});
