import { useId } from 'react';

/** How new surface may go on from its surroundings, and where on the slider that is. */
const DETENTS = [
  { at: 0, label: 'straight across' },
  { at: 0.5, label: 'along the slope' },
  { at: 1, label: 'with the bend' },
] as const;

/** A slider this near to a detent is at it. */
const CATCH = 0.06;

const inWords = (follow: number): string => {
  const at = DETENTS.find((d) => d.at === follow);
  if (at) return at.label;
  const low = follow < 0.5 ? 0 : 1;
  return `${Math.round(100 * (2 * follow - low))} % from ${DETENTS[low]?.label} to ${DETENTS[low + 1]?.label}`;
};

/** One slider for the shape of new surface, from straight across over the slope at the rim to the bend of what is around. */
export function FollowSlider({ value, onChange }: { value: number; onChange: (follow: number) => void }) {
  const list = useId();
  return (
    <label className="grid gap-0.5">
      <span className="flex">
        <span className="flex-1">New surface goes on</span>
        <output className="text-right">{inWords(value)}</output>
      </span>
      <input
        type="range"
        className="range range-xs w-full"
        min={0}
        max={1}
        step={0.05}
        list={list}
        value={value}
        aria-label="New surface goes on"
        aria-valuetext={inWords(value)}
        onChange={(e) => {
          const at = Number(e.target.value);
          onChange(DETENTS.find((d) => Math.abs(d.at - at) < CATCH)?.at ?? at);
        }}
      />
      <datalist id={list}>
        {DETENTS.map((d) => (
          <option key={d.at} value={d.at} />
        ))}
      </datalist>
      <span className="flex justify-between text-xs opacity-80" aria-hidden>
        {DETENTS.map((d) => (
          <span key={d.at}>{d.label}</span>
        ))}
      </span>
    </label>
  );
}
