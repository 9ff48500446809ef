import { ArrowRight } from 'lucide-react';
import type { OperationInfo } from '../../api/types';

/** Small pictures, drawn by core/bench/help-pictures.php; the bundler collects them. */
const PICTURES = import.meta.glob<string>('../../help/*.png', { eager: true, query: '?url&no-inline', import: 'default' });

const pictureOf = (operation: string, when: 'before' | 'after'): string | undefined => PICTURES[`../../help/${operation}-${when}.png`];

export const hasHelp = (operation: OperationInfo): boolean => operation.avoid !== '' || pictureOf(operation.name, 'after') !== undefined;

/** What an operation does to a part of the demo world, and when another one does better. */
export function OperationHelp({ operation }: { operation: OperationInfo }) {
  const [before, after] = [pictureOf(operation.name, 'before'), pictureOf(operation.name, 'after')];
  return (
    <div className="mt-1 grid gap-1.5">
      {before && after ? (
        <div className="flex items-center gap-1">
          <img src={before} alt={`Before: ${operation.label}`} className="w-[46%] rounded-field border border-neutral" />
          <ArrowRight size={13} className="shrink-0" aria-hidden />
          <img src={after} alt={`After: ${operation.label}`} className="w-[46%] rounded-field border border-neutral" />
        </div>
      ) : null}
      {operation.avoid ? <p className="border-l-2 border-warning pl-2">{operation.avoid}</p> : null}
    </div>
  );
}
