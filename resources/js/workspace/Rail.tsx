import { Check, Circle, CircleAlert, CircleDot, LoaderCircle, Search } from 'lucide-react';
import { MembersButton } from '../features/projects/MembersButton';
import { ProjectHead } from '../features/projects/ProjectHead';
import { AccountMenu } from '../features/account/AccountMenu';
import { useView, useWorkspace } from '../state/context';
import { STAGES, stageOf, type StageState, stageStates } from '../state/stages';

const SIGNS: Record<StageState, { icon: typeof Check; words: string; tint: string }> = {
  nothing: { icon: Circle, words: 'nothing to do yet', tint: 'opacity-60' },
  todo: { icon: CircleDot, words: 'to do', tint: 'text-warning' },
  running: { icon: LoaderCircle, words: 'running', tint: 'text-primary motion-safe:animate-spin' },
  done: { icon: Check, words: 'done', tint: 'text-success' },
  look: { icon: CircleAlert, words: 'needs another look', tint: 'text-warning' },
};

export function Rail() {
  const { data, operations, commands, store } = useWorkspace();
  const stage = useView((s) => s.stage);
  const states = stageStates(data, (name) => stageOf(name, operations));
  return (
    <header className="flex items-center border-b border-neutral bg-base-100 pl-3 pr-2">
      <div className="flex w-52 min-w-0 items-center gap-3">
        <a className="shrink-0" href="/" aria-label="All projects" title="All projects">
          <img src="/icon.svg" alt="" className="h-6" />
        </a>
        <ProjectHead />
      </div>
      <nav className="flex flex-1 items-center justify-center" aria-label="Stages">
        {STAGES.map(({ name, label }, k) => {
          const sign = SIGNS[states[name]];
          const here = stage === name;
          return (
            <span key={name} className="flex items-center">
              {k > 0 ? <span className={`h-0.5 w-4 ${states[name] === 'done' ? 'bg-primary/60' : 'bg-neutral'}`} aria-hidden /> : null}
              <button type="button" className={`btn btn-sm h-8 gap-1.5 px-2.5 font-medium ${here ? 'btn-primary' : 'btn-ghost'}`} aria-current={here ? 'step' : undefined} title={`${label}: ${sign.words}`} onClick={() => commands.goTo(name)}>
                <sign.icon size={14} className={here ? (states[name] === 'running' ? 'motion-safe:animate-spin' : '') : sign.tint} aria-hidden />
                {label}
                <span className="sr-only">, {sign.words}</span>
              </button>
            </span>
          );
        })}
      </nav>
      <button type="button" className="btn btn-ghost btn-square btn-sm" aria-label="Find (Ctrl+K)" title="Find an operation, body, pass or datum (Ctrl+K)" onClick={() => store.setState({ overlay: 'find' })}>
        <Search size={16} aria-hidden />
      </button>
      <MembersButton />
      <AccountMenu />
    </header>
  );
}
