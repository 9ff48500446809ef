import type { OperationInfo, ProjectState } from '../../api/types';
import type { StageName } from '../../state/view/store';

export interface Entry {
  key: string;
  label: string;
  kind: string;
  go: { operation: string; stage: StageName } | { stage: StageName } | { only: string };
}

/** What the command box finds: operations, stages, and whatever lies in the tray. */
export function entries(operations: readonly OperationInfo[], stages: readonly { name: StageName; label: string }[], data: ProjectState): Entry[] {
  const { passes, bodies, datums } = data.snapshot;
  return [
    ...operations.map((o) => ({ key: `operation ${o.name}`, label: o.label, kind: stages.find((s) => s.name === o.stage)?.label ?? o.stage, go: { operation: o.name, stage: o.stage as StageName } })),
    ...stages.map((s) => ({ key: `stage ${s.name}`, label: s.label, kind: 'stage', go: { stage: s.name } })),
    ...bodies.map((b) => ({ key: b.id, label: b.name, kind: 'body, show only this', go: { only: b.id } })),
    ...passes.map((p) => ({ key: p.id, label: p.name, kind: 'pass, show only this', go: { only: p.id } })),
    ...datums.map((d) => ({ key: d.id, label: d.name, kind: 'datum, show only this', go: { only: d.id } })),
  ];
}

/** Entries that hold every typed word, those that begin with the text first. */
export function found(all: readonly Entry[], typed: string): Entry[] {
  const words = typed
    .toLowerCase()
    .split(/\s+/)
    .filter((w) => w !== '');
  const hits = all.filter((e) => words.every((w) => `${e.label} ${e.kind}`.toLowerCase().includes(w)));
  const rank = (e: Entry) => (words.length > 0 && e.label.toLowerCase().startsWith(words[0] ?? '') ? 0 : 1);
  return hits
    .map((e, k) => ({ e, k }))
    .sort((a, b) => rank(a.e) - rank(b.e) || a.k - b.k)
    .map(({ e }) => e);
}
