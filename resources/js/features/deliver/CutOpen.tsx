import { useEffect, useState } from 'react';
import type { DatumItem } from '../../api/types';
import { useWorkspace } from '../../state/context';
import type { Values } from '../../operations/module';
import { Choice } from '../../ui/Choice';

type Triple = [number, number, number];

/** The planes of the frame (PlaneChoice.php). */
const OF_FRAME: Readonly<Record<string, Triple>> = { XY: [0, 0, 1], YZ: [1, 0, 0], ZX: [0, 1, 0] };

/** The plane that a form names, moved by its shift the way it faces; null while none is chosen. */
export function planeOf(values: Values, datums: readonly Pick<DatumItem, 'id' | 'name' | 'kind' | 'origin' | 'direction'>[]): { point: Triple; normal: Triple } | null {
  const name = values.plane;
  const datum = datums.find((d) => d.kind === 'plane' && (d.id === name || d.name === name));
  const normal = datum?.direction ?? (typeof name === 'string' ? OF_FRAME[name] : undefined);
  if (!normal) return null;
  const from = datum?.origin ?? [0, 0, 0];
  const shift = Number(values.shift ?? 0);
  return { point: [0, 1, 2].map((k) => (from[k] ?? 0) + shift * (normal[k] ?? 0)) as Triple, normal: [...normal] as Triple };
}

/** How far a box reaches along a plane's normal, from the plane without its shift. */
export function reach(box: { centre: readonly number[]; size: readonly number[] }, plane: { point: readonly number[]; normal: readonly number[] }, shift: number): [number, number] {
  const middle = [0, 1, 2].reduce((sum, k) => sum + ((box.centre[k] ?? 0) - (plane.point[k] ?? 0)) * (plane.normal[k] ?? 0), shift);
  const half = [0, 1, 2].reduce((sum, k) => sum + (Math.abs(plane.normal[k] ?? 0) * (box.size[k] ?? 0)) / 2, 0);
  return [middle - half, middle + half];
}

type Side = 'whole' | 'before' | 'behind';

/** The view cut open at the plane that a form names, and a slider that moves it through the part. */
export function CutOpen({ values, set, on, begins = 'before' }: { values: Values; set: (name: string, value: unknown) => void; on: string[] | null; begins?: Side }) {
  const { data, store, viewport } = useWorkspace();
  const [side, setSide] = useState<Side>(begins);
  const plane = values.around ? null : planeOf(values, data.snapshot.datums);
  const key = plane && side !== 'whole' ? JSON.stringify(side === 'before' ? plane : { ...plane, normal: plane.normal.map((v) => -v) }) : null;
  useEffect(() => {
    store.setState({ cut: key ? JSON.parse(key) : null });
    return () => store.setState({ cut: null });
  }, [key, store]);
  if (!plane) return null;
  const shift = Number(values.shift ?? 0);
  const box = viewport.current?.boundsOf(on ?? undefined);
  const [from, to] = box ? reach(box, plane, shift) : [0, 0];
  return (
    <div className="grid gap-1.5">
      {box ? <input type="range" className="range range-xs w-full" aria-label="Move the plane through the part" min={from} max={to} step={Math.max(1e-3, Number(((to - from) / 200).toPrecision(1)))} value={shift} onChange={(e) => set('shift', Number(Number(e.target.value).toFixed(3)))} /> : null}
      <Choice
        label="In the view"
        options={[
          { value: 'before', label: 'cut open' },
          { value: 'behind', label: 'other side' },
          { value: 'whole', label: 'whole' },
        ]}
        value={side}
        onChoose={setSide}
      />
    </div>
  );
}
