export type Three = [number, number, number];

/** Three numbers, one an axis. */
export function Triple({ label, unit, value, onChange }: { label: string; unit: string; value: Three; onChange: (value: Three) => void }) {
  return (
    <fieldset className="grid gap-0.5">
      <legend>{label}</legend>
      <span className="flex items-center gap-1">
        {(['X', 'Y', 'Z'] as const).map((axis, k) => (
          <input key={axis} className="input input-sm w-full text-right" type="number" step="any" aria-label={`${label} ${axis}`} value={value[k]} onChange={(e) => onChange(value.map((v, i) => (i === k ? Number(e.target.value) : v)) as Three)} />
        ))}
        <span className="w-8 opacity-80">{unit}</span>
      </span>
    </fieldset>
  );
}
