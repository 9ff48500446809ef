import { LevelSlider } from '../../features/lighten/LevelSlider';
import { useWorkspace } from '../../state/context';
import { count } from '../../ui/format';
import { defineOperation, type FieldsProps, type Values } from '../module';

const isSaid = (value: unknown): boolean => value !== undefined && value !== null && value !== '';

/** A share or a deviation says it in place of a count of faces. */
const isSaidOtherwise = (values: Values): boolean => isSaid(values.ratio) || isSaid(values.deviation);

/** Faces that the form asks for of all the bodies; null where it bounds the deviation, or says nothing that is a count. */
function facesAsked(values: Values, faces: number): number | null {
  if (isSaid(values.deviation)) return null;
  const asked = isSaid(values.ratio) ? Number(values.ratio) * faces : isSaid(values.faces) ? Number(values.faces) : faces;
  return Number.isFinite(asked) ? Math.round(asked) : null;
}

/** The brief's bound on faces, a click away, and every count on a slider. */
function Fields({ bodies, values, set, parameters, on }: FieldsProps) {
  const { faceBudget } = useWorkspace().data.project.brief;
  const faces = bodies.reduce((sum, body) => sum + body.faces, 0);
  const ask = (count: number) => {
    // Who asked for a share goes on asking for one.
    const isShare = isSaid(values.ratio);
    set('deviation', undefined);
    set('ratio', isShare ? +(count / faces).toPrecision(3) : undefined);
    if (!isShare) set('faces', count);
  };
  // The count is what the slider is for; all else is as it would be.
  const { faces: _, ratio, deviation, ...measured } = parameters;
  return (
    <>
      {faces <= faceBudget || values.faces === faceBudget ? null : (
        <button
          type="button"
          className="btn btn-sm justify-self-start font-normal"
          title={`The brief asks for ${faceBudget.toLocaleString('en-GB')} faces at most; ${count(faces)} are there`}
          onClick={() => {
            for (const other of ['ratio', 'deviation']) set(other, undefined);
            set('faces', faceBudget);
          }}
        >
          As light as the brief asks: {count(faceBudget)} faces
        </button>
      )}
      <LevelSlider operation="levels" parameters={measured} bodies={bodies} on={on} faces={facesAsked(values, faces)} budget={faceBudget} onFaces={ask} />
    </>
  );
}

export default defineOperation({
  name: 'decimate',
  Fields,
  fieldsFirst: true,
  // As light as the brief asks, where it is heavier.
  beginsWith: ({ bodies }, { faceBudget }) => (bodies.reduce((sum, body) => sum + body.faces, 0) > faceBudget ? { faces: faceBudget } : {}),
  hides: (parameter, { values, selected }) => (parameter === 'faces' && isSaidOtherwise(values)) || (parameter === 'finer' && selected === 0),
  toSend: ({ faces, finer, ...sent }) => ({ ...sent, ...(isSaid(faces) && !isSaidOtherwise(sent) ? { faces } : {}), ...(finer !== undefined && sent.selection ? { finer } : {}) }),
  lacking: (sent) => ([sent.ratio, sent.faces, sent.deviation].filter((v) => v !== undefined).length === 1 ? null : 'Fill in one of share, faces and deviation.'),
});
