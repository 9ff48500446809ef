/** A few words side by side, one of which holds. */
export function Choice<T>({ label, options, value, onChoose }: { label: string; options: { value: T; label: string }[]; value: T; onChoose: (value: T) => void }) {
  return (
    <div className="join w-full" role="radiogroup" aria-label={label}>
      {options.map((o) => (
        <button key={o.label} type="button" role="radio" aria-checked={o.value === value} className={`btn btn-sm join-item flex-1 px-1 font-normal ${o.value === value ? 'border-base-content/60 bg-neutral font-semibold' : ''}`} onClick={() => onChoose(o.value)}>
          {o.label}
        </button>
      ))}
    </div>
  );
}
