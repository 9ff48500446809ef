import { useEffect } from 'react';
import type { ShadeMap } from '../../api/types';
import { Choice } from '../../ui/Choice';
import { useView, useWorkspace } from '../../state/context';

/** Which map of a report colours the passes; none gives them their own colours back. */
export function MapChoice({ maps }: { maps: ShadeMap[] }) {
  const { store } = useWorkspace();
  const chosen = useView((s) => s.map);
  useEffect(() => () => store.setState({ map: null }), [store]);
  const names = [...new Set(maps.map((m) => m.label))];
  if (names.length === 0) return null;
  const options = [{ value: null as string | null, label: 'Pass' }, ...names.map((name) => ({ value: name, label: name }))];
  return <Choice label="Colour passes by" options={options} value={chosen} onChoose={(name) => store.setState({ map: name })} />;
}
