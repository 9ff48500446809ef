import { ChevronRight } from 'lucide-react';
import { CapturePanel } from '../features/gather/CapturePanel';
import { UnitCheck } from '../features/gather/UnitCheck';
import { UploadPanel } from '../features/gather/UploadPanel';
import { DeliverPanel } from '../features/deliver/DeliverPanel';
import { ShapeLists } from '../features/lighten/ShapeLists';
import { FrameCheck } from '../features/orient/FrameCheck';
import { OperationForm } from '../features/operations/OperationForm';
import { moduleOf } from '../operations';
import { useView, useWorkspace } from '../state/context';
import { ItemFacts } from './ItemFacts';
import { hasForm } from '../state/stages';
import { StepDetails } from './StepDetails';

function Tool({ label, help, onOpen }: { label: string; help: string; onOpen: () => void }) {
  return (
    <button type="button" className="flex w-full items-center rounded-field px-2 py-1.5 text-left hover:bg-base-300" title={help} onClick={onOpen}>
      <span className="flex-1">{label}</span>
      <ChevronRight size={14} className="opacity-70" aria-hidden />
    </button>
  );
}

/** The stage's tools as a short list; the open one in place. */
export function StepPanel() {
  const { operations, commands, data } = useWorkspace();
  const stage = useView((s) => s.stage);
  const open = useView((s) => s.openOperation);
  const openStep = useView((s) => s.openStep);
  const openItem = useView((s) => s.openItem);
  if (openStep !== null) return <StepDetails key={openStep} stepId={openStep} />;
  if (openItem !== null) return <ItemFacts itemId={openItem} />;
  return (
    <section className="min-h-0 flex-1 overflow-y-auto p-2" aria-label="Step panel">
      {stage === 'gather' ? <UnitCheck /> : null}
      {stage === 'gather' ? <CapturePanel open={open === 'capture'} /> : null}
      {stage === 'gather' && open === null && !data.capture ? <UploadPanel /> : null}
      {stage === 'gather' && open !== 'capture' && !data.capture ? <Tool label="Live capture" help="Frames of a scanner come in one by one, and the view shows what is still thin." onOpen={() => commands.openOperation('capture')} /> : null}
      {stage === 'deliver' ? <DeliverPanel /> : null}
      {stage === 'lighten' && open === null ? <ShapeLists /> : null}
      {operations
        .filter((o) => o.stage === stage && ((hasForm(o) && !moduleOf(o.name).within) || o.name === open))
        .map((operation) => (operation.name === open ? <OperationForm key={operation.name} operation={operation} /> : <Tool key={operation.name} label={operation.label} help={operation.help} onOpen={() => commands.openOperation(operation.name)} />))}
      {stage === 'orient' ? <FrameCheck /> : null}
    </section>
  );
}
