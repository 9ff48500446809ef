import { Pause, Play, Radio, SprayCan, Trash2, Video } from 'lucide-react';
import { useState } from 'react';
import { api } from '../../api/client';
import type { Capture, ParameterInfo, Scanner } from '../../api/types';
import { count } from '../../ui/format';
import { css, RAMP } from '../../viewport/palette';
import { infoOf } from '../../state/stages';
import { useWorkspace } from '../../state/context';
import { ParameterField } from '../operations/ParameterField';

/** What is said of a running capture, most urgent first. */
export function captureWords(c: Capture): string {
  if (c.state === 'failed') return c.message ?? 'The scanner broke off.';
  if (c.state === 'ended') return 'The scanner has made all its stops.';
  if (c.state === 'paused') return 'Paused. Look at what is still thin, then go on.';
  if (c.silent) return 'The scanner gives no sign of life.';
  if (c.state === 'waiting') return 'Waiting for the first frame…';
  if (c.isLost) return c.scanner?.dots === false ? 'Tracking lost: nothing here fixes where the scanner stands. Look from where there is more shape, or start again with marker dots.' : 'Tracking lost: look from where there is more shape.';
  return 'Capturing.';
}

const SETTINGS = ['part', 'rig', 'surface', 'spray', 'dots', 'dotRadius', 'dotSpacing'];

/** Choose a part, its surface and a scanner; the fields are those of simulating a scan. */
function Setup() {
  const { operations, projectId, run } = useWorkspace();
  const fields = (infoOf('simulate', operations)?.parameters ?? []).filter((p) => SETTINGS.includes(p.name));
  const live = (p: ParameterInfo) => (p.name === 'rig' ? { ...p, choices: p.choices.filter((c) => c !== 'handheld-bare' && c !== 'handheld-steady') } : p);
  const [values, setValues] = useState<Record<string, unknown>>(Object.fromEntries(fields.map((p) => [p.name, p.default])));
  const [own, setOwn] = useState<{ address: string; token: string } | null>(null);
  const start = (scanner: Partial<Scanner> | null) =>
    run(async () => {
      const { token, address } = await api.startCapture(projectId, scanner);
      setOwn(token === null ? null : { token, address });
    });
  const set = (name: string, value: unknown) => setValues((old) => ({ ...old, [name]: value, ...(name === 'part' && value === 'press-hall' ? { rig: 'tripod' } : name === 'part' && old.rig === 'tripod' ? { rig: 'handheld' } : {}) }));
  return (
    <form
      className="my-1 grid gap-2.5 rounded-box border border-neutral bg-base-200 p-3"
      aria-label="Live capture"
      onSubmit={(e) => {
        e.preventDefault();
        start(values as Partial<Scanner>);
      }}
    >
      <div>
        <h2 className="text-sm font-semibold">Live capture</h2>
        <p className="opacity-85">Frames come in one by one; the view shows where they lie dense and where thin, so that gaps are seen while the part still stands there.</p>
      </div>
      {fields
        .filter((p) => values.dots === true || !p.name.startsWith('dot') || p.name === 'dots')
        .map((p) => (
          <ParameterField key={p.name} parameter={live(p)} value={values[p.name]} onChange={(v) => set(p.name, v)} />
        ))}
      <button type="submit" className="btn btn-primary btn-sm">
        <Video size={13} aria-hidden /> Start the simulated scanner
      </button>
      <button type="button" className="btn btn-sm font-normal" title="Waits for a device's own bridge; docs/capture-protocol.md says how it speaks" onClick={() => start(null)}>
        <Radio size={13} aria-hidden /> Wait for a device of your own
      </button>
      {own ? <Address {...own} /> : null}
    </form>
  );
}

function Address({ address, token }: { address: string; token: string }) {
  return (
    <p className="break-all rounded-field border border-warning p-2">
      The bridge sends its frames to <code>{address}/frames</code> with the token <code>{token}</code>. It is shown once.
    </p>
  );
}

function Legend() {
  return (
    <div className="grid gap-1">
      <div className="h-2 rounded-sm" style={{ background: `linear-gradient(to right, ${RAMP.map(css).join(', ')})` }} aria-hidden />
      <p className="flex opacity-85">
        <span className="flex-1">dense</span> thin
      </p>
    </div>
  );
}

function Running({ capture }: { capture: Capture }) {
  const { projectId, run, viewport, commands } = useWorkspace();
  const tell = (what: Parameters<typeof api.tellCapture>[2]) => run(() => api.tellCapture(projectId, capture.id, what, what === 'look' ? viewport.current?.lookingFrom() : undefined));
  const open = ['waiting', 'running', 'paused'].includes(capture.state);
  const steerable = capture.scanner?.rig === 'handheld' && open;
  const shiny = capture.scanner !== null && capture.scanner.surface !== 'matt' && !capture.scanner.spray && open;
  return (
    <section className="my-1 grid gap-2 rounded-box border border-primary bg-base-200 p-3" aria-label="Running capture" data-capture={capture.state}>
      <h2 className="text-sm font-semibold">Live capture{capture.scanner ? ` · ${capture.scanner.part.replace('-', ' ')}` : ''}</h2>
      <p className={capture.isLost || capture.silent || capture.state === 'failed' ? 'text-warning' : ''} aria-live="polite">
        {captureWords(capture)}
      </p>
      <dl className="grid grid-cols-[1fr_auto] gap-x-2">
        <dt className="opacity-85">Frames</dt>
        <dd className="text-right" data-frames={capture.frames}>
          {capture.frames}
          {capture.lost > 0 ? `, ${capture.lost} lost` : ''}
        </dd>
        <dt className="opacity-85">Points</dt>
        <dd className="text-right">{count(capture.points)}</dd>
        {capture.coverage ? (
          <>
            <dt className="opacity-85">Dense, of what was seen</dt>
            <dd className="text-right">{Math.round(100 * capture.coverage.dense)} %</dd>
            <dt className="opacity-85">Still thin</dt>
            <dd className="text-right">{Math.round(100 * capture.coverage.thin)} %</dd>
          </>
        ) : null}
      </dl>
      {capture.coverage ? <Legend /> : null}
      <div className="grid grid-cols-2 gap-1">
        {open ? (
          <button type="button" className="btn btn-sm font-normal" onClick={() => tell(capture.state === 'paused' ? 'go' : 'pause')}>
            {capture.state === 'paused' ? <Play size={13} aria-hidden /> : <Pause size={13} aria-hidden />} {capture.state === 'paused' ? 'Go on' : 'Pause'}
          </button>
        ) : null}
        {steerable ? (
          <button type="button" className="btn btn-sm font-normal" title="Scan from here: the scanner goes to the side of the part that the view shows" onClick={() => tell('look')}>
            <Video size={13} aria-hidden /> From here
          </button>
        ) : null}
        {shiny ? (
          <button type="button" className="btn btn-sm font-normal" title="From now on the surface is matt" onClick={() => tell('spray')}>
            <SprayCan size={13} aria-hidden /> Spray it
          </button>
        ) : null}
        <button type="button" className="btn btn-sm font-normal" title="Nothing of it is kept" onClick={() => tell('drop')}>
          <Trash2 size={13} aria-hidden /> Drop
        </button>
      </div>
      <button
        type="button"
        className="btn btn-primary btn-sm"
        disabled={capture.points === 0}
        onClick={() => {
          tell('finish');
          commands.openOperation(null);
        }}
      >
        Finish: make passes
      </button>
      {capture.points === 0 ? <p className="opacity-85">No point has come in yet.</p> : null}
    </section>
  );
}

/** A scan in the making: set it up, watch it grow, finish it. */
export function CapturePanel({ open }: { open: boolean }) {
  const { data } = useWorkspace();
  if (data.capture) return <Running capture={data.capture} />;
  return open ? <Setup /> : null;
}
