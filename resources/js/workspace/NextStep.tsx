import { ArrowRight } from 'lucide-react';
import { useView, useWorkspace } from '../state/context';
import { infoOf } from '../state/stages';
import type { StageName } from '../state/view/store';

/** What a technician would do next, one click away; gone while that is open, or something runs. */
export function NextStep() {
  const { data, operations, commands } = useWorkspace();
  const open = useView((s) => s.openOperation);
  const { next } = data;
  const info = next && infoOf(next.operation, operations);
  const busy = data.steps.some((s) => s.state === 'running' || s.state === 'waiting');
  if (!info || busy || open === info.name) return null;
  return (
    <button type="button" className="btn btn-sm mx-2 mt-2 justify-start border-primary/70 font-normal" title={next.why} data-next={info.name} onClick={() => commands.openOperation(info.name, info.stage as StageName)}>
      <ArrowRight size={13} aria-hidden /> Next: {info.label.toLowerCase()}
      <span className="sr-only">. {next.why}</span>
    </button>
  );
}
