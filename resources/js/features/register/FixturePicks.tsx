import { useQuery } from '@tanstack/react-query';
import { FileJson } from 'lucide-react';
import { useRef } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import type { Fixture } from '../../api/types';

/** A fixture solved before, in any project, or from its file. */
export function FixturePicks({ value, onChange }: { value: Fixture | undefined; onChange: (fixture: Fixture | undefined) => void }) {
  const solved = useQuery({ queryKey: ['fixtures'], queryFn: api.fixtures });
  const input = useRef<HTMLInputElement>(null);
  const open = async (file: File | undefined) => {
    if (!file) return;
    try {
      onChange(JSON.parse(await file.text()) as Fixture);
    } catch {
      toast.error(`${file.name} is not JSON; a fixture is the file that solving one gives.`);
    }
  };
  return (
    <div className="grid gap-1">
      {solved.data?.map((one) => (
        <label key={one.id} className="flex items-center gap-1.5">
          <input type="radio" name="fixture" className="radio radio-xs" checked={value === one.fixture} onChange={() => onChange(one.fixture)} />
          <span className="flex-1 truncate">{one.project}</span>
          <span className="opacity-80">
            {one.fixture.heads.length} heads, {new Date(one.at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })}
          </span>
        </label>
      ))}
      {solved.data?.length === 0 ? <p className="opacity-85">No fixture was solved yet: capture the target with every head and use Solve fixture.</p> : null}
      <input ref={input} type="file" hidden accept=".json" data-fixture onChange={(e) => void open(e.target.files?.[0])} />
      <button type="button" className="btn btn-xs font-normal" onClick={() => input.current?.click()}>
        <FileJson size={12} aria-hidden /> Open a file
      </button>
      {value && !solved.data?.some((one) => one.fixture === value) ? <p>From a file: {value.heads?.length ?? 0} heads.</p> : null}
    </div>
  );
}
