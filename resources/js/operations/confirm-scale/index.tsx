import { useQuery } from '@tanstack/react-query';
import { api } from '../../api/client';
import { LengthPicks } from '../../features/orient/LengthPicks';
import { type Lengths, NO_LENGTHS, sentLengths } from '../../features/orient/lengths';
import { useWorkspace } from '../../state/context';
import { defineOperation, type FieldsProps } from '../module';

/** How large a body is, as its facts say it. */
function Size({ id, name }: { id: string; name: string }) {
  const { projectId, data } = useWorkspace();
  const item = [...data.snapshot.passes, ...data.snapshot.bodies].find((i) => i.id === id);
  const { data: facts } = useQuery({ queryKey: ['facts', projectId, id, item?.blob, item?.transform.join()], queryFn: () => api.facts(projectId, id), enabled: item !== undefined, staleTime: Infinity, retry: false });
  return (
    <p className="flex gap-2">
      <span className="min-w-0 flex-1 truncate opacity-80">{name}</span>
      <span>{facts?.sizeMm ? `${facts.sizeMm.map((v) => v.toFixed(2)).join(' × ')} mm` : 'measuring…'}</span>
    </p>
  );
}

/** More are not compared with the real part one by one. */
const MOST = 4;

function Fields({ values, set, bodies }: FieldsProps) {
  const { data } = useWorkspace();
  const items = bodies.length > 0 ? bodies : data.snapshot.passes;
  return (
    <>
      {items.slice(0, MOST).map(({ id, name }) => (
        <Size key={id} id={id} name={name} />
      ))}
      <p className="opacity-85">Is the real part as large? Surest is a length that was read on it.</p>
      <LengthPicks value={values.lengths as Lengths | undefined} onChange={(lengths) => set('lengths', lengths)} />
    </>
  );
}

export default defineOperation({
  name: 'confirm-scale',
  trial: 'never',
  Fields,
  fieldsFirst: true,
  hides: (parameter, { values, picks }) => parameter === 'readTo' && picks === 0 && sentLengths((values.lengths as Lengths | undefined) ?? NO_LENGTHS, []).length === 0,
  toSend: ({ lengths: typed, ...sent }, { picks }) => {
    const lengths = sentLengths((typed as Lengths | undefined) ?? NO_LENGTHS, picks);
    return lengths.length > 0 ? { ...sent, lengths } : sent;
  },
  lacking: (sent, { picks }) => {
    if (picks.length % 2 === 1) return 'Click the other end of the length.';
    const open = Array.isArray(sent.lengths) ? sent.lengths.findIndex((l: { actual?: number }) => !l.actual) : -1;
    return open >= 0 ? `Type what length ${open + 1} is on the real part.` : null;
  },
  picksInPairs: true,
});
