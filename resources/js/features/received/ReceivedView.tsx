import { useEffect, useRef, useState } from 'react';
import { api } from '../../api/client';
import type { Received } from '../../api/types';
import { EvidenceLegend } from '../../ui/EvidenceLegend';
import { readGeometry } from '../../viewport/blob';
import { bodyColour } from '../../viewport/palette';
import { listen } from '../../viewport/pointer';
import { SceneItem } from '../../viewport/sceneItem';
import { Viewport } from '../../viewport/Viewport';

/** A part to turn, with what is made up hatched and what was measured drawn on it. Nothing is picked. */
export function ReceivedView({ token, data, part, showsMeasured }: { token: string; data: Received; part: number; showsMeasured: boolean }) {
  const host = useRef<HTMLDivElement>(null);
  const viewport = useRef<Viewport | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [loaded, setLoaded] = useState(false);
  useEffect(() => {
    if (!host.current) return;
    const view = new Viewport(host.current);
    viewport.current = view;
    const stop = listen(host.current, view, { draws: () => false, send: () => null, pick: (at) => view.pick(at), hover: () => {}, double: () => null });
    return () => {
      stop();
      view.dispose();
      viewport.current = null;
    };
  }, []);
  const transform = data.parts[part]?.transform;
  useEffect(() => {
    const view = viewport.current;
    if (!view || !transform) return;
    let live = true;
    setLoaded(false);
    api
      .receivedPart(token, part)
      .then((blob) => {
        if (!live) return;
        const key = String(part);
        if (!view.has(key)) view.add(key, new SceneItem(key, 'body', readGeometry(blob), null, bodyColour(part)));
        view.arrange(new Map([[key, { transform, visible: true }]]));
        view.fit();
        setLoaded(true);
      })
      .catch((reason: Error) => live && setProblem(reason.message));
    return () => {
      live = false;
    };
  }, [token, part, transform]);
  useEffect(() => {
    viewport.current?.setDimensions(showsMeasured && loaded ? data.measurements.filter((m) => m.line.length > 0).map(({ line, words }) => ({ line, words })) : []);
  }, [data, showsMeasured, loaded]);
  const figures = data.parts[part]?.figures;
  return (
    <>
      <div ref={host} data-view role="img" aria-label={`${data.parts[part]?.name}, to be turned with the mouse`} className="absolute inset-0 touch-none bg-[radial-gradient(circle_at_50%_35%,var(--color-neutral),var(--color-base-200))]" />
      {problem ? (
        <p role="alert" className="absolute left-3 top-3 rounded-box bg-base-100 px-3 py-1 text-error">
          {problem}
        </p>
      ) : loaded ? (
        <p className="pointer-events-none absolute left-3 top-3 rounded-full bg-base-100/90 px-3 py-1">Drag to turn, Shift and drag to shift, wheel to come nearer</p>
      ) : (
        <p className="pointer-events-none absolute left-3 top-3 rounded-full bg-base-100/90 px-3 py-1">Loading…</p>
      )}
      {figures ? <EvidenceLegend figures={figures} /> : null}
    </>
  );
}
