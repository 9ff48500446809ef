import { FileJson } from 'lucide-react';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { readTarget, type Target, targetInWords } from './target';

/** Which target the heads look at: the demo one, or one from its file. */
export function TargetPicks({ value, onSet }: { value: Target | null; onSet: (name: 'diameter' | 'balls' | 'planes', value: unknown) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [name, setName] = useState('');
  const choose = (target: Partial<Target>) => {
    onSet('diameter', target.diameter);
    onSet('balls', target.balls);
    onSet('planes', target.planes);
  };
  const open = async (file: File | undefined) => {
    if (!file) return;
    try {
      choose(readTarget(await file.text()));
      setName(file.name);
    } catch (problem) {
      toast.error(`${file.name} ${problem instanceof Error ? problem.message : 'could not be read'}.`);
    }
  };
  return (
    <fieldset className="grid gap-1">
      <legend>Target</legend>
      <label className="flex items-center gap-1.5">
        <input type="radio" name="target" className="radio radio-xs" checked={value === null} onChange={() => choose({})} />
        The demo target
      </label>
      {value ? (
        <label className="flex items-center gap-1.5">
          <input type="radio" name="target" className="radio radio-xs" checked readOnly />
          <span className="flex-1 truncate" title={name}>
            {name || 'From a file'}
          </span>
          <span className="opacity-80">{targetInWords(value)}</span>
        </label>
      ) : null}
      <input
        ref={input}
        type="file"
        hidden
        accept=".json"
        data-target
        onChange={(e) => {
          void open(e.target.files?.[0]);
          // The same file, once it is mended, is a change again.
          e.target.value = '';
        }}
      />
      <button type="button" className="btn btn-xs font-normal" onClick={() => input.current?.click()}>
        <FileJson size={12} aria-hidden /> Open the file of another
      </button>
    </fieldset>
  );
}
