import type { Hit } from '../tools/events';
import { fitRange } from '../features/orient/fitRange';
import { count } from '../ui/format';
import { css, DIVERGING, RAMP, SUPPORT } from '../viewport/palette';
import { useView, useWorkspace } from '../state/context';
import { KINDS, swatch } from '../features/lighten/shapes';
import { FREE, SHAPE_COLOURS } from '../viewport/shapeLayer';
import { EvidenceLegend } from '../ui/EvidenceLegend';
import { useShownBodies } from './useShownBodies';
import { selectedInWords } from './selectedInWords';
import { bandEnds } from './bandEnds';
import { noiseRange } from './noiseRange';
import { useMaps } from './useMaps';

/** One line at the top of the view: what the pointer is on, or what to do now; and the legend when something was made up. */
export function ViewNote({ hover, loading, empty }: { hover: Hit | undefined; loading: boolean; empty: boolean }) {
  const { data, commands } = useWorkspace();
  const selection = useView((s) => s.selection);
  const hidden = useView((s) => s.hidden);
  const colours = useView((s) => s.colours);
  const kinds = useView((s) => s.shapeKinds);
  const share = useView((s) => s.shareDrawn);
  const standIn = useView((s) => s.standIn);
  const mapName = useView((s) => s.map);
  const sideBySide = useView((s) => s.sideBySide);
  const row = data.snapshot.bodies.filter((b) => !hidden[b.id]);
  const preview = useView((s) => s.datumPreview);
  const off = useView((s) => s.levelRange);
  const isLightened = useView((s) => s.level) !== null;
  const range = fitRange(preview?.datum.rms ?? 0);
  const map = useMaps().find((m) => m.label === mapName);
  const selected = selection.reduce((n, s) => n + s.count, 0);
  const shown = useShownBodies();
  const item = hover && [...data.snapshot.passes, ...shown].find((i) => i.id === hover.itemId);
  const body = shown.filter((b) => !hidden[b.id] && b.figures).at(-1);
  const noise = noiseRange(shown);
  const place = hover?.pointMm.map((v) => v.toFixed(1)).join(', ');
  const words = loading ? 'Loading…' : selected > 0 ? selectedInWords(selection, [...data.snapshot.passes, ...data.snapshot.bodies]) : item ? `${item.name} · ${place} mm` : null;
  return (
    <>
      {words ? (
        <p className="pointer-events-none absolute left-1/2 top-3 -translate-x-1/2 whitespace-nowrap rounded-full bg-base-100/90 px-3 py-1" aria-live="polite">
          {words}
        </p>
      ) : null}
      {standIn > 1 ? <p className="pointer-events-none absolute left-3 top-11 rounded-full bg-base-100/90 px-3 py-1">Lighter stand-ins: 1 point in {standIn} is loaded</p> : null}
      {share < 1 ? <p className="pointer-events-none absolute left-3 top-3 rounded-full bg-base-100/90 px-3 py-1">1 point in {(1 / share).toFixed(share > 0.2 ? 1 : 0)} is drawn</p> : null}
      {data.diskUsed !== null ? (
        <p role="status" className="pointer-events-none absolute left-1/2 top-12 w-max max-w-[90%] -translate-x-1/2 rounded-box border border-warning bg-base-100 px-3 py-1">
          ⚠ The server’s disk is {Math.round(100 * data.diskUsed)} % full. Delete projects that are done with; from 97 % on no new files are taken.
        </p>
      ) : null}
      {empty && !loading ? (
        <div className="pointer-events-none absolute inset-0 grid place-items-center text-center">
          <p className="max-w-72 opacity-85">
            The part appears here. Bring in passes with the panel on the right, or drop their files on it: PLY, STL, OBJ, E57, PTX, 3MF, GLB, text and more, one by one, in a folder or in a zip. To try Emberstone without a scan of your own,{' '}
            <button type="button" className="link pointer-events-auto" onClick={() => commands.openOperation('simulate', 'gather')}>
              simulate one
            </button>
            .
          </p>
        </div>
      ) : null}
      {sideBySide && row.length > 1 ? (
        <table className="absolute left-1/2 top-3 -translate-x-1/2 whitespace-nowrap rounded-box bg-base-100/90 text-sm" aria-label="Side by side, from left to right">
          <tbody>
            {row.map((b) => (
              <tr key={b.id}>
                <th scope="row" className="px-3 py-0.5 text-left font-semibold">
                  {b.name}
                </th>
                <td className="px-2 text-right">
                  {count(b.faces ?? b.points)} {b.kind === 'mesh' ? 'faces' : 'points'}
                </td>
                {b.figures ? <td className="px-2 text-right">{(100 * b.figures.measured).toFixed(1)} % measured</td> : null}
                {b.figures?.distance ? <td className="px-3 text-right">95 % of the points within {b.figures.distance.p95.toFixed(3)} mm</td> : null}
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {map && !preview ? (
        <div
          className="absolute bottom-3 right-3 grid w-44 gap-1 rounded-box bg-base-100/85 p-2"
          role="img"
          aria-label={map.from < 0 ? `${map.label}: blue is ${map.from.toFixed(2)} ${map.unit}, pale is 0, brown ${map.to.toFixed(2)} ${map.unit}` : `${map.label}: light is ${map.from.toFixed(2)} ${map.unit}, dark ${map.to.toFixed(2)} ${map.unit}`}
        >
          <span className="opacity-80">{map.label.toLowerCase()}</span>
          <span className="relative h-2 rounded-sm" style={{ background: `linear-gradient(to right, ${(map.from < 0 ? DIVERGING : RAMP).map(css).join(', ')})` }}>
            {bandEnds(map).map((at) => (
              <span key={at} className="absolute -inset-y-1 w-0.5 bg-base-content" style={{ left: `${at}%` }} data-band />
            ))}
          </span>
          {map.band ? (
            <span className="opacity-80">
              between the marks: ± {map.band} {map.unit}, in tolerance
            </span>
          ) : null}
          <span className="flex">
            <span className="flex-1">
              {map.from.toFixed(2)} {map.unit}
            </span>
            {map.from < 0 ? '+' : ''}
            {map.to.toFixed(2)} {map.unit}
            {map.from < 0 ? '' : ' +'}
          </span>
        </div>
      ) : null}
      {preview ? (
        <div className="absolute bottom-3 right-3 grid w-48 gap-1 rounded-box bg-base-100/85 p-2" role="img" aria-label={`Distance from the fit: from ${range.toFixed(3)} mm inside to ${range.toFixed(3)} mm outside`}>
          <span className="opacity-80">distance from the fit</span>
          <span className="h-2 rounded-sm" style={{ background: `linear-gradient(to right, ${DIVERGING.map(css).join(', ')})` }} />
          <span className="flex justify-between">
            <span>{range.toFixed(3)} mm in</span>
            <span>out</span>
          </span>
        </div>
      ) : null}
      {off !== null ? (
        <div className="absolute bottom-3 right-3 grid w-48 gap-1 rounded-box bg-base-100/85 p-2" role="img" aria-label={`How far the surface would move: light is 0 mm, dark ${off} mm, the tolerance of the brief, and more`}>
          <span className="opacity-80">the surface would move by</span>
          <span className="h-2 rounded-sm" style={{ background: `linear-gradient(to right, ${RAMP.map(css).join(', ')})` }} />
          <span className="flex justify-between">
            <span>0 mm</span>
            <span>{off} mm +</span>
          </span>
          <span className="opacity-80">dark: beyond the tolerance of the brief</span>
        </div>
      ) : null}
      {!preview && !map && !isLightened && kinds.length > 0 ? (
        <ul className="absolute bottom-3 right-3 grid gap-1 rounded-box bg-base-100/85 p-2" aria-label="Legend">
          {kinds.map((kind) => (
            <li key={kind} className="flex items-center gap-2">
              <span className="size-3 rounded-sm border border-black/40" style={{ background: swatch(kind, css(kind === 'free' ? FREE : SHAPE_COLOURS[0])) }} aria-hidden /> {KINDS[kind as keyof typeof KINDS].toLowerCase()}
            </li>
          ))}
        </ul>
      ) : null}
      {!preview && !map && !isLightened && kinds.length === 0 && body?.figures && colours === 'support' ? (
        <ul className="absolute bottom-3 right-3 grid gap-1 rounded-box bg-base-100/85 p-2" aria-label="Legend">
          <li className="opacity-80">seen by</li>
          {SUPPORT.map((shade, k) => (
            <li key={shade} className="flex items-center gap-2">
              <span className="size-3 rounded-sm" style={{ background: css(shade) }} aria-hidden /> {k + 1 < SUPPORT.length ? `${k + 1} ${k === 0 ? 'pass' : 'passes'}` : `${k + 1} or more`}
            </li>
          ))}
          <li className="flex items-center gap-2">
            <span className="hatch size-3 rounded-sm" aria-hidden /> none: filled
          </li>
        </ul>
      ) : null}
      {!preview && !map && !isLightened && kinds.length === 0 && body && colours === 'noise' ? (
        noise === null ? (
          <p className="absolute bottom-3 right-3 w-56 rounded-box bg-base-100/85 p-2">No body here tells its noise: only what is fused from passes does.</p>
        ) : (
          <div className="absolute bottom-3 right-3 grid w-48 gap-1 rounded-box bg-base-100/85 p-2" role="img" aria-label={`Noise: light is 0 mm, dark ${noise.toFixed(3)} mm and more`}>
            <span className="opacity-80">points lie off the surface by</span>
            <span className="h-2 rounded-sm" style={{ background: `linear-gradient(to right, ${RAMP.map(css).join(', ')})` }} />
            <span className="flex justify-between">
              <span>0 mm</span>
              <span>{noise.toFixed(3)} mm +</span>
            </span>
          </div>
        )
      ) : null}
      {!preview && !map && !isLightened && kinds.length === 0 && body?.figures && colours === 'evidence' ? <EvidenceLegend figures={body.figures} /> : null}
    </>
  );
}
