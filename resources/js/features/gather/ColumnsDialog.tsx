import { useState } from 'react';
import type { TextLook } from '../../api/types';
import { Dialog } from '../../ui/Dialog';

export interface TextFile {
  upload: string;
  name: string;
  look: TextLook;
}

const WORDS: Record<string, string> = { x: 'X', y: 'Y', z: 'Z', nx: 'normal X', ny: 'normal Y', nz: 'normal Z', skip: 'not used' };

const wordFor = (role: string) => WORDS[role] ?? role;

/** What keeps these columns from being read, in words; null when nothing does. */
export function columnsProblem(columns: readonly string[]): string | null {
  const missing = ['x', 'y', 'z'].find((axis) => !columns.includes(axis));
  if (missing) return `Say which column is ${wordFor(missing)}.`;
  const twice = columns.find((role, k) => role !== 'skip' && columns.indexOf(role) !== k);
  return twice ? `Two columns are ${wordFor(twice)}.` : null;
}

/** Files with the same columns are asked about once. */
export function alike(files: readonly TextFile[]): TextFile[][] {
  const groups = new Map<string, TextFile[]>();
  for (const file of files) {
    const key = JSON.stringify(file.look.columns);
    groups.set(key, [...(groups.get(key) ?? []), file]);
  }
  return [...groups.values()];
}

/** Shows the first lines of text files and asks what their columns mean; the guess is there to be confirmed. */
export function ColumnsDialog({ files, onDone, onCancel }: { files: TextFile[]; onDone: (columns: Record<string, string[]>) => void; onCancel: () => void }) {
  const groups = alike(files);
  const [chosen, setChosen] = useState(groups.map((g) => g[0]?.look.columns ?? []));
  const problem = chosen.map(columnsProblem).find((p) => p !== null) ?? null;
  const set = (group: number, column: number, role: string) => setChosen(chosen.map((columns, g) => (g === group ? columns.map((old, c) => (c === column ? role : old)) : columns)));
  const confirm = () => onDone(Object.fromEntries(groups.flatMap((g, k) => g.map((file) => [file.upload, chosen[k] ?? []]))));
  return (
    <Dialog title="What do the columns mean?" onClose={onCancel}>
      {groups.map((group, g) => {
        const { lines, heading, roles } = group[0]!.look;
        return (
          <section key={group[0]!.upload} className="mb-4">
            <p className="mb-1">
              <strong>{group.map((f) => f.name).join(', ')}</strong>
              {heading > 0 ? `: ${heading} ${heading === 1 ? 'line' : 'lines'} of heading passed over` : ''}
            </p>
            {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a wide table scrolls, from the keyboard too */}
            <div className="overflow-x-auto" tabIndex={0} role="region" aria-label={`First lines of ${group[0]!.name}`}>
              <table className="table table-xs w-auto">
                <thead>
                  <tr>
                    {(chosen[g] ?? []).map((role, c) => (
                      // biome-ignore lint/suspicious/noArrayIndexKey: columns have nothing else to tell them apart
                      <th key={c} className="px-1">
                        <select className="select select-xs w-22" aria-label={`Column ${c + 1} of ${group[0]!.name}`} value={role} onChange={(e) => set(g, c, e.target.value)}>
                          {roles.map((r) => (
                            <option key={r} value={r}>
                              {wordFor(r)}
                            </option>
                          ))}
                        </select>
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {lines.map((line, n) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: lines of a file
                    <tr key={n}>
                      {(chosen[g] ?? []).map((role, c) => (
                        // biome-ignore lint/suspicious/noArrayIndexKey: as above
                        <td key={c} className={`px-1 ${role === 'skip' ? 'opacity-60' : ''}`}>
                          {line[c]}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          </section>
        );
      })}
      <p className="min-h-5 text-warning" aria-live="polite">
        {problem}
      </p>
      <div className="mt-2 flex justify-end gap-2">
        <button type="button" className="btn btn-sm" onClick={onCancel}>
          Leave these files out
        </button>
        <button type="button" className="btn btn-primary btn-sm" disabled={problem !== null} onClick={confirm}>
          Bring in like this
        </button>
      </div>
    </Dialog>
  );
}
