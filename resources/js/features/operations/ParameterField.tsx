import type { ParameterInfo } from '../../api/types';
import { FAMILIES } from '../mend/faults';
import { Choice } from '../../ui/Choice';
import { NumberField } from './NumberField';
import { WidthOrAll } from './WidthOrAll';
import { FRAME_PLANES } from './planes';

interface FieldProps {
  parameter: ParameterInfo;
  value: unknown;
  onChange: (value: unknown) => void;
  names?: readonly { id: string; name: string; kind?: string }[];
  /** stands in an empty field of words: what is taken then */
  placeholder?: string;
}

/** Axes of the frame (AxisChoice.php). */
const FRAME_AXES = ['X', 'Y', 'Z'].map((id) => ({ id, name: `${id} of the frame` }));

/** Ways to look at a part, along the axes of the frame (LookAlong.php). */
const LOOKS = [
  { id: '-Z', name: 'from above' },
  { id: 'Z', name: 'from below' },
  { id: 'Y', name: 'from the front' },
  { id: '-Y', name: 'from behind' },
  { id: 'X', name: 'from the left' },
  { id: '-X', name: 'from the right' },
];

/** Kinds of datum that have an axis. */
const ROUND: ReadonlySet<string> = new Set(['line', 'cylinder', 'cone']);

/** One parameter, drawn from its declaration. */
export function ParameterField({ parameter, value, onChange, names, placeholder }: FieldProps) {
  const p = parameter;
  // More words than fit side by side go into a list.
  const many = p.type === 'string' && p.choices.join('').length > 26;
  const control = () => {
    if (p.picks === 'against') {
      return (
        <select className="select select-sm w-34" aria-label={p.label} value={value as string} onChange={(e) => onChange(e.target.value)}>
          <option value="passes">raw passes</option>
          <option value="shapes">its found shapes</option>
          <option value="earlier">itself, earlier</option>
          {names?.map((n) => (
            <option key={n.id} value={n.id}>
              {n.name}
            </option>
          ))}
        </select>
      );
    }
    if (p.picks === 'shapes') return <output aria-label={p.label}>{((value as string[] | undefined) ?? []).map((id) => id.replace('shape-', '')).join(', ') || 'none'}</output>;
    if (p.picks === 'names' || p.picks === 'mesh' || p.picks === 'ground' || p.picks === 'revision') {
      return (
        <select className="select select-sm w-34" aria-label={p.label} value={(value as string) ?? ''} onChange={(e) => onChange(e.target.value || undefined)}>
          <option value="">{p.required || p.picks === 'revision' ? 'choose' : p.picks === 'ground' ? 'the one clicked' : 'none'}</option>
          {names?.map((n) => (
            <option key={n.id} value={n.id}>
              {n.name}
            </option>
          ))}
        </select>
      );
    }
    if (p.picks === 'measured') {
      const chosen = (value as string[] | undefined) ?? [];
      return (
        <span className="grid gap-1">
          {(p.max === 1 ? ['Datum'] : ['From', 'To']).map((label, k) => (
            <select key={label} className="select select-sm w-34" aria-label={label} value={chosen[k] ?? ''} onChange={(e) => onChange([k === 0 ? e.target.value : (chosen[0] ?? ''), k === 1 ? e.target.value : (chosen[1] ?? '')].filter(Boolean))}>
              <option value="">{k === 0 ? 'choose a datum' : 'nothing more'}</option>
              {names?.map((n) => (
                <option key={n.id} value={n.id}>
                  {n.name}
                </option>
              ))}
            </select>
          ))}
        </span>
      );
    }
    if (p.picks === 'plane' || p.picks === 'axis' || p.picks === 'look') {
      const planes = (names ?? []).filter((n) => n.kind === 'plane');
      const round = (names ?? []).filter((n) => ROUND.has(n.kind ?? ''));
      const choices = p.picks === 'plane' ? [...FRAME_PLANES, ...planes] : p.picks === 'axis' ? [...FRAME_AXES, ...round] : [...LOOKS, ...planes.map((n) => ({ ...n, name: `at ${n.name}` })), ...round.map((n) => ({ ...n, name: `along ${n.name}` }))];
      return (
        <select className="select select-sm w-34" aria-label={p.label} value={typeof value === 'string' ? value : ''} onChange={(e) => onChange(e.target.value || undefined)}>
          <option value="">{typeof value === 'object' && value !== null ? 'as typed' : p.required || p.picks === 'plane' ? 'choose' : 'none'}</option>
          {choices.map((n) => (
            <option key={n.id} value={n.id}>
              {n.name}
            </option>
          ))}
        </select>
      );
    }
    if (p.type === 'array') {
      const chosen = (value as string[] | undefined) ?? p.choices;
      return (
        <span className="grid grid-cols-2 gap-x-2 gap-y-1" role="group" aria-label={p.label}>
          {p.choices.map((choice) => (
            <label key={choice} className="flex items-center gap-1.5 leading-tight">
              <input type="checkbox" className="checkbox checkbox-xs" checked={chosen.includes(choice)} onChange={(e) => onChange(p.choices.filter((c) => (c === choice ? e.target.checked : chosen.includes(c))))} />
              {FAMILIES[choice]?.label ?? (p.name === 'formats' ? choice.toUpperCase() : choice.replace(/[A-Z]/g, (l) => ` ${l.toLowerCase()}`))}
            </label>
          ))}
        </span>
      );
    }
    if (many) {
      return (
        <select className="select select-sm w-40" aria-label={p.label} value={(value as string) ?? ''} onChange={(e) => onChange(e.target.value)}>
          {p.choices.map((choice) => (
            <option key={choice} value={choice}>
              {choice.replaceAll('-', ' ')}
            </option>
          ))}
        </select>
      );
    }
    if (p.choices.length > 0) {
      return <Choice isInline={p.choices.length <= 4} label={p.label} options={p.choices.map((choice) => ({ value: choice, label: choice.toUpperCase().length === 2 && choice[1] && 'xyz'.includes(choice[1]) ? choice.toUpperCase() : choice.replaceAll('-', ' ') }))} value={String(value)} onChoose={onChange} />;
    }
    if (p.type === 'bool') return <input type="checkbox" className="checkbox checkbox-sm" aria-label={p.label} checked={Boolean(value)} onChange={(e) => onChange(e.target.checked)} />;
    if (p.type === 'string|float') return <WidthOrAll parameter={p} value={value} onChange={onChange} />;
    if (p.type === 'string') return <input className="input input-sm w-34" aria-label={p.label} value={(value as string) ?? ''} placeholder={placeholder ?? (p.nullable ? 'by itself' : '')} onChange={(e) => onChange(e.target.value || undefined)} />;
    return <NumberField parameter={p} value={value} onChange={onChange} placeholder={placeholder} />;
  };
  const wide = p.choices.length > 3 && !many;
  return (
    <div className={wide ? 'grid gap-1' : 'flex flex-wrap items-center gap-x-2 gap-y-0.5'} title={p.help}>
      <span className="flex-1">{p.label}</span>
      {control()}
    </div>
  );
}
