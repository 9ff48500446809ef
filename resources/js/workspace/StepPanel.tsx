import { ChevronRight } from 'lucide-react';
import { UnitCheck } from '../features/gather/UnitCheck';
import { UploadPanel } from '../features/gather/UploadPanel';
import { DeliverPanel } from '../features/deliver/DeliverPanel';
import { OperationForm } from '../features/operations/OperationForm';
import { useView, useWorkspace } from './context';
import { StepDetails } from './StepDetails';

/** The stage's tools as a short list; the open one in place. */
export function StepPanel() {
  const { operations, commands } = useWorkspace();
  const stage = useView((s) => s.stage);
  const open = useView((s) => s.openOperation);
  const openStep = useView((s) => s.openStep);
  if (openStep !== null) return <StepDetails stepId={openStep} />;
  return (
    <section className="min-h-0 flex-1 overflow-y-auto p-2" aria-label="Step panel">
      {stage === 'gather' ? <UnitCheck /> : null}
      {stage === 'gather' && open === null ? <UploadPanel /> : null}
      {stage === 'deliver' ? <DeliverPanel /> : null}
      {operations
        .filter((o) => o.stage === stage)
        .map((operation) =>
          operation.name === open ? (
            <OperationForm key={operation.name} operation={operation} />
          ) : (
            <button
              key={operation.name}
              type="button"
              className="flex w-full items-center rounded-field px-2 py-1.5 text-left hover:bg-base-300"
              title={operation.help}
              onClick={() => commands.openOperation(operation.name)}
            >
              <span className="flex-1">{operation.label}</span>
              <ChevronRight size={14} className="opacity-70" aria-hidden />
            </button>
          ),
        )}
    </section>
  );
}
