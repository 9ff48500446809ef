import type { ProjectState } from '../../api/types';
import { defineOperation, type FieldsProps } from '../module';

/** Millimetres of each unit that files may be in (Unit.php). */
const MM: Readonly<Record<string, number>> = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8 };

/** The unit that everything counts in now: what a number of its file is in millimetres says it. Null where things differ, or somebody has scaled them. */
export function readAs({ passes, bodies }: Pick<ProjectState['snapshot'], 'passes' | 'bodies'>): string | null {
  const items = passes.length > 0 ? passes : bodies;
  const units = new Set(items.map(({ transform: t }) => Object.keys(MM).find((unit) => Math.abs(Math.hypot(t[0] ?? 0, t[4] ?? 0, t[8] ?? 0) / (MM[unit] ?? 1) - 1) < 1e-9) ?? null));
  return units.size === 1 ? ([...units][0] ?? null) : null;
}

function Fields({ values: { unit, was } }: FieldsProps) {
  const factor = (MM[String(unit)] ?? 1) / (MM[String(was)] ?? 1);
  if (!unit || unit === was) return null;
  return (
    <p>
      What counts as 1 {String(was)} becomes 1 {String(unit)}: everything {factor > 1 ? `${Number(factor.toPrecision(6))} times as large` : `smaller, 1 : ${Number((1 / factor).toPrecision(6))}`}.
    </p>
  );
}

export default defineOperation({
  name: 'set-unit',
  trial: 'never',
  answersUnit: true,
  Fields,
  beginsWith: (snapshot) => {
    const was = readAs(snapshot);
    return was ? { was } : {};
  },
  lacking: (sent) => (sent.unit !== undefined && sent.unit === sent.was ? `It counts in ${sent.unit} already: choose another unit.` : null),
});
