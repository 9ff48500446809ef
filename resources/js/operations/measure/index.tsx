import { datumsOf } from '../../features/deliver/measured';
import { MeasurePicks } from '../../features/deliver/MeasurePicks';
import { WallPlaces } from '../../features/deliver/WallPlaces';
import type { Hit } from '../../tools/events';
import { defineOperation, type Values } from '../module';

/** What is measured: datums that were chosen, then places that were clicked, with what is fitted there. */
function measuredOf(values: Values, picks: readonly Hit[]): unknown[] {
  const fits = (values.found as string[] | undefined) ?? [];
  return [...((values.of as string[] | undefined) ?? []), ...picks.map((pick, k) => ({ at: pick.pointMm, fit: fits[k] }))];
}

export default defineOperation({
  name: 'measure',
  presses: () => 'points',
  fieldsFirst: true,
  showsMeasured: true,
  Fields: ({ values, set }) => <MeasurePicks values={values} set={set} />,
  // What was clicked says which kinds there are: they stand beside it.
  hides: (parameter, { values, picks }) => picks > 0 && (parameter === 'kind' || (parameter === 'of' && ((values.of as string[] | undefined) ?? []).length === 0)),
  Report: ({ trial: { step } }) => <WallPlaces step={step} />,
  Details: WallPlaces,
  own: ['fits', 'found'],
  startsAgain: ['fits', 'found', 'of', 'nominal', 'plus', 'minus', 'name'],
  // Of what a kind is not measured of, nothing is sent.
  toSend: (sent, { picks, values }) => {
    const all = measuredOf(values, picks);
    const wanted = sent.kind === 'wall' && picks.length > 0 ? 1 : datumsOf(String(sent.kind));
    const { of: _, ...rest } = sent;
    return all.length === 0 || wanted === 0 ? rest : { ...rest, of: (sent.kind === 'wall' ? picks.slice(0, 1).map((pick) => pick.pointMm) : all).slice(0, wanted) };
  },
  lacking: (sent, { picks }) => {
    const wanted = datumsOf(String(sent.kind));
    const given = (sent.of as unknown[] | undefined)?.length ?? 0;
    if (given < wanted) return wanted === 2 && given === 1 ? 'Click the second place, or choose a second datum.' : wanted === 2 ? 'Click what is measured on the part, or choose two datums.' : 'Click what is measured on the part, or choose a datum.';
    // What is fitted is told by the server.
    if (picks.length > 0 && sent.kind !== 'wall' && (sent.of as unknown[]).some((one) => typeof one === 'object' && one !== null && 'fit' in one && one.fit === undefined)) return 'Looking at what was clicked.';
    return sent.nominal === undefined && (sent.plus !== undefined || sent.minus !== undefined) ? 'Say what it should be, or leave out what is allowed.' : null;
  },
});
