import { useWorkspace } from '../../state/context';
import { count } from '../../ui/format';
import { defineOperation, type FieldsProps, type Values } from '../module';

/** The brief's bound on faces, a click away. */
function AsTheBriefAsks({ bodies, values, set }: FieldsProps) {
  const { faceBudget } = useWorkspace().data.project.brief;
  const faces = bodies.reduce((sum, body) => sum + body.faces, 0);
  if (faces <= faceBudget || values.faces === faceBudget) return null;
  return (
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
  );
}

const isSaid = (value: unknown): boolean => value !== undefined && value !== null && value !== '';

/** A share or a deviation says it in place of a count of faces. */
const isSaidOtherwise = (values: Values): boolean => isSaid(values.ratio) || isSaid(values.deviation);

export default defineOperation({
  name: 'decimate',
  Fields: AsTheBriefAsks,
  fieldsFirst: true,
  // As light as the brief asks, where it is heavier.
  beginsWith: ({ bodies }, { faceBudget }) => (bodies.reduce((sum, body) => sum + body.faces, 0) > faceBudget ? { faces: faceBudget } : {}),
  hides: (parameter, { values }) => parameter === 'faces' && isSaidOtherwise(values),
  toSend: ({ faces, ...sent }) => (isSaid(faces) && !isSaidOtherwise(sent) ? { ...sent, faces } : sent),
  lacking: (sent) => ([sent.ratio, sent.faces, sent.deviation].filter((v) => v !== undefined).length === 1 ? null : 'Fill in one of share, faces and deviation.'),
});
