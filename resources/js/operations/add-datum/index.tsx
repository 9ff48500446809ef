import { DatumPicks } from '../../features/orient/DatumPicks';
import { TurnedRound } from '../../features/orient/TurnedRound';
import { useView } from '../../state/context';
import { type Asked, defineOperation, type FieldsProps, type Gestures, type Values } from '../module';
import { placesOf } from '../places';
import { type Construction, frameToKeep, freeName, hasWayRound, type Hold, lackingNumbers, lackingParents, lackingPicks, NO_TYPED, type Typed, typedToSend } from './datum';

const kindOf = (values: Values): string => String(values.kind ?? 'plane');

function Fields({ values, set }: FieldsProps) {
  const preview = useView((s) => s.datumPreview);
  const by = useView((s) => s.datumBy);
  return (
    <>
      <DatumPicks
        kind={kindOf(values)}
        seenKind={values.seenKind as string | undefined}
        angle={Number(values.angle)}
        construct={values.construct as Construction | undefined}
        hold={values.hold as Hold | undefined}
        typed={values.typed as Typed | undefined}
        nth={Number(values.nth ?? 1)}
        frameOf={values.frameOf as string | undefined}
        onSet={set}
      />
      {hasWayRound(kindOf(values), by) ? <TurnedRound value={values.flip === true} onChange={(flip) => set('flip', flip || undefined)} /> : null}
      {preview ? (
        <p>
          {preview.datum.kind === 'cylinder' || preview.datum.kind === 'sphere' ? `ø ${(2 * preview.datum.radius).toFixed(2)} mm, ` : ''}fit error {preview.datum.rms.toFixed(3)} mm over {preview.whole ? '' : by === 'brush' ? 'a sample of ' : 'the nearest '}
          {preview.faces.length} faces{preview.whole ? '' : '; adding takes the whole area'}
        </p>
      ) : null}
    </>
  );
}

function toSend(sent: Values, { picks, selection, datumBy, values }: Gestures & { values: Values }): Values {
  const out = { ...sent };
  const points = placesOf(picks);
  if (!hasWayRound(String(out.kind), datumBy) || out.flip !== true) delete out.flip;
  if (datumBy !== 'datums') delete out.construct;
  delete out.typed;
  delete out.shape;
  if (out.kind === 'frame') return frameToKeep(out);
  delete out.frameOf;
  if (datumBy === 'datums') delete out.kind;
  else if (datumBy === 'shape') out.shape = { find: out.kind === 'line' ? 'axis' : 'mirror', ...(typeof values.nth === 'number' && out.kind === 'plane' ? { nth: values.nth } : {}) };
  else if (datumBy === 'typed') out.typed = typedToSend(String(out.kind), (values.typed as Typed | undefined) ?? NO_TYPED);
  else if (datumBy === 'brush') out.region = selection.map(({ target, ranges, of }) => ({ target, ranges, of }));
  else if (out.kind === 'cylinder' || out.kind === 'cone' || (points.length === 1 && out.kind !== 'point' && out.kind !== 'line')) {
    if (points.length > 0) out.seed = points[0];
    if (points.length > 1) out.also = points.slice(1);
  } else if (points.length > 0) out.points = points;
  if (out.seed === undefined && out.region === undefined) delete out.hold;
  return out;
}

function lackingSource(sent: Values, { picks, selection, datumBy }: Asked): string | null {
  if (sent.kind === 'frame') return null;
  switch (datumBy) {
    case 'datums':
      return lackingParents(sent.construct as Construction | undefined);
    case 'typed':
      return lackingNumbers(sent.typed as Partial<Typed>);
    case 'shape':
      return sent.kind === 'plane' || sent.kind === 'line' ? null : 'Choose plane for the mirror of the shape, or line for its axis.';
    case 'brush':
      return selection.length === 0 ? 'Brush over the surface, or draw around it.' : null;
    default:
      return lackingPicks(String(sent.kind), picks.length);
  }
}

export default defineOperation({
  name: 'add-datum',
  trial: 'never',
  Fields,
  toSend,
  lacking: (sent, asked) => lackingSource(sent, asked) ?? (asked.data.snapshot.datums.some((d) => d.name === sent.name) ? 'There is a datum of that name; choose another.' : null),
  // What datums are made of decides their kind; only a click spreads, and not to where there is no surface.
  hides: (parameter, { values, datumBy }) => (parameter === 'kind' && datumBy === 'datums') || (parameter === 'angle' && (datumBy !== 'click' || ['line', 'point', 'frame'].includes(String(values.kind)))),
  freeName: (values, { datumBy, snapshot }) => freeName(datumBy === 'datums' ? 'datum' : kindOf(values), snapshot.datums),
  own: ['nth', 'seenKind'],
  startsAgain: ['name', 'flip', 'construct', 'hold', 'typed', 'nth', 'frameOf'],
  presses: (datumBy, stated) => (datumBy === 'click' ? stated : datumBy === 'brush' ? 'selection' : null),
});
