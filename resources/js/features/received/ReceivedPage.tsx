import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { useState } from 'react';
import { api, receivedFile, receivedReport } from '../../api/client';
import type { Received } from '../../api/types';
import { bytes, count, day } from '../../ui/format';
import { READY_SIGNS } from '../../ui/readySigns';
import { ThemeButton } from '../../ui/ThemeButton';
import { Verdict } from '../../ui/Verdict';
import { ReceivedView } from './ReceivedView';

/** What a receiver sees of a delivery without an account: the parts, what was measured, and the files. */
export function ReceivedPage({ token }: { token: string }) {
  const { data, error } = useQuery({ queryKey: ['received', token], queryFn: () => api.received(token), retry: false, staleTime: Infinity });
  return (
    <div className="flex min-h-full flex-col bg-base-200 lg:h-full">
      <header className="flex h-13 shrink-0 items-center gap-3 border-b border-neutral bg-base-100 px-4">
        <img src="/icon.svg" alt="" className="h-6" />
        <span className="flex-1 font-semibold text-base">Emberstone</span>
        <ThemeButton />
      </header>
      {error ? (
        <main className="grid flex-1 place-items-center p-6">
          <div className="max-w-96 text-center">
            <h1 className="mb-2 text-lg font-semibold">This cannot be opened</h1>
            <p role="alert">{(error as Error).message}</p>
          </div>
        </main>
      ) : data ? (
        <Delivery token={token} data={data} />
      ) : (
        <p className="p-6 opacity-85">Loading…</p>
      )}
    </div>
  );
}

function Delivery({ token, data }: { token: string; data: Received }) {
  const lookable = data.parts.map((part, k) => ({ part, k })).filter(({ part }) => part.transform !== null);
  const [shown, setShown] = useState<number | null>(lookable[0]?.k ?? null);
  const [measured, setMeasured] = useState(true);
  return (
    <main className="flex min-h-0 flex-1 flex-col lg:flex-row">
      <div className="relative min-h-96 flex-1">{shown !== null ? <ReceivedView token={token} data={data} part={shown} showsMeasured={measured} /> : <p className="p-6 opacity-85">There is nothing to look at in this delivery; its files are beside.</p>}</div>
      <aside className="grid w-full shrink-0 content-start gap-5 overflow-y-auto border-l border-neutral bg-base-100 p-4 lg:w-96" aria-label="The delivery">
        <div>
          <h1 className="text-xl font-semibold">{data.title}</h1>
          <p className="opacity-85">
            Handed over on {day(data.at)}
            {data.by ? ` by ${data.by}` : ''}
            {data.receiver ? ` for ${data.receiver}` : ''}. {data.scaleConfirmedBy ? `The scale was confirmed by ${data.scaleConfirmedBy}.` : 'The scale has not been confirmed by anybody.'}
          </p>
        </div>
        <Files token={token} data={data} />
        {data.parts.map((part, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes
          <section key={k} aria-label={part.name}>
            <div className="mb-1 flex items-center gap-2">
              <h2 className="min-w-0 flex-1 truncate font-semibold">{part.name}</h2>
              {lookable.length > 1 && part.transform ? (
                <button type="button" className="btn btn-xs" aria-pressed={shown === k} onClick={() => setShown(k)}>
                  {shown === k ? 'Shown' : 'Show'}
                </button>
              ) : null}
            </div>
            <dl className="grid grid-cols-[auto_1fr] gap-x-4">
              <dt className="opacity-80">Size</dt>
              <dd className="text-right tabular-nums">{part.size.map((v) => v.toFixed(1)).join(' × ')} mm</dd>
              <dt className="opacity-80">{part.faces === null ? 'Points' : 'Faces'}</dt>
              <dd className="text-right tabular-nums">{count(part.faces ?? part.points)}</dd>
              {part.faces === null ? null : (
                <>
                  <dt className="opacity-80">Volume</dt>
                  <dd className="text-right tabular-nums">{part.volume === null ? 'none: it is not closed' : `${(part.volume / 1000).toFixed(2)} cm³`}</dd>
                </>
              )}
            </dl>
            <ul className="mt-1" aria-label={`What was asked for of ${part.name}`}>
              {part.ready.map((line) => {
                const sign = READY_SIGNS[line.state];
                return (
                  <li key={line.key} className="flex items-center gap-2">
                    <sign.icon size={14} className={sign.tint} aria-label={sign.words} />
                    <span className="flex-1">{line.label}</span>
                    <span className="truncate opacity-85">{line.figure}</span>
                  </li>
                );
              })}
            </ul>
          </section>
        ))}
        {data.measurements.length > 0 ? (
          <section aria-label="Measurements">
            <div className="mb-1 flex items-center gap-2">
              <h2 className="flex-1 font-semibold">Measurements</h2>
              <label className="flex items-center gap-1.5">
                <input type="checkbox" className="checkbox checkbox-xs" checked={measured} onChange={(e) => setMeasured(e.target.checked)} /> drawn
              </label>
            </div>
            <ul className="grid gap-1">
              {data.measurements.map((m, k) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes
                <li key={k}>
                  <span className="flex gap-2">
                    <span className="min-w-0 flex-1 truncate" title={m.name}>
                      {m.name}
                    </span>
                    <span className="tabular-nums">{m.words}</span>
                  </span>
                  {m.verdict ? <Verdict verdict={m.verdict} /> : null}
                </li>
              ))}
            </ul>
          </section>
        ) : null}
        <p className="opacity-80">This page is open until {day(data.expiresAt)}. Who opens it and which files are taken is recorded.</p>
      </aside>
    </main>
  );
}

function Files({ token, data }: { token: string; data: Received }) {
  return (
    <section aria-label="Files">
      <h2 className="mb-1 font-semibold">Files</h2>
      <p className="mb-1.5 opacity-85">
        In {data.unit} with {data.up.toUpperCase()} up.
      </p>
      <ul className="grid gap-1">
        {data.files.map((file, k) => (
          <li key={file.name}>
            <a className="btn btn-sm w-full justify-start font-normal" href={receivedFile(token, k)} download title={`SHA-256 ${file.sha256}`}>
              <Download size={13} aria-hidden /> <span className="min-w-0 flex-1 truncate text-left">{file.name}</span>
              <span className="opacity-80">{bytes(file.size)}</span>
            </a>
          </li>
        ))}
      </ul>
      <div className="mt-1.5 grid grid-cols-2 gap-1">
        <a className="btn btn-sm" href={receivedReport(token, 'pdf')} download>
          Report, PDF
        </a>
        <a className="btn btn-sm btn-primary" href={receivedReport(token, 'zip')} download>
          All, ZIP
        </a>
      </div>
    </section>
  );
}
