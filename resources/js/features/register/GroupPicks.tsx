/** Which others move along with what is placed. */
export function GroupPicks({ among, value, not, onChange }: { among: readonly { id: string; name: string }[]; value: string[]; not: unknown[]; onChange: (ids: string[]) => void }) {
  const others = among.filter((b) => !not.includes(b.id));
  if (others.length === 0) return null;
  return (
    <fieldset>
      <legend>Together with</legend>
      {others.map((b) => (
        <label key={b.id} className="flex items-center gap-1.5">
          <input type="checkbox" className="checkbox checkbox-xs" checked={value.includes(b.id)} onChange={(e) => onChange(e.target.checked ? [...value, b.id] : value.filter((id) => id !== b.id))} />
          <span className="truncate">{b.name}</span>
        </label>
      ))}
    </fieldset>
  );
}
