import { useEffect } from 'react';
import { Choice } from '../../ui/Choice';
import { useView, useWorkspace } from '../../workspace/context';
import type { PassLine } from './RegisterReport';

const stands = (a: readonly number[], b: readonly number[]): boolean => a.length === b.length && a.every((v, k) => Math.abs(v - (b[k] ?? 0)) < 1e-6);

const STANDS = [
  { value: true, label: 'Before' },
  { value: false, label: 'After' },
];

/** Shows the passes where they stood before the step, and back again; nothing where something has moved them since. */
export function BeforeAfter({ passes }: { passes: readonly PassLine[] }) {
  const { data, store } = useWorkspace();
  const isBefore = useView((s) => s.before !== null);
  useEffect(() => () => store.setState({ before: null }), [store]);
  const here = passes.flatMap(({ id, is, back }) => {
    const pass = data.snapshot.passes.find((p) => p.id === id);
    return pass && is && back && stands(is, pass.transform) ? [{ id: pass.id, by: back }] : [];
  });
  if (here.length < 2) return null;
  return <Choice label="Passes stand as" options={STANDS} value={isBefore} onChoose={(before) => store.setState({ before: before ? here : null })} />;
}
