import { FollowSlider } from '../../features/mend/FollowSlider';
import { HoleList } from '../../features/mend/HoleList';
import { closingToSend, drawnBefore, listedHoles, type ToldRims, wishesOf } from '../../features/mend/holes';
import { NO_RIM_GESTURE, withWishes, NOTHING_SAID } from '../../tools/rims/closing';
import { defineOperation, type FieldsProps, type Values } from '../module';

/** Where on the slider the shapes of recipes are. */
const SHAPES: Readonly<Record<string, number>> = { flat: 0, tangent: 0.5, curved: 1 };

const followOf = (values: Values): number => (typeof values.follow === 'number' ? values.follow : (SHAPES[String(values.shape)] ?? 0.5));

/** At a detent the shape has a name; between two it is a number. */
function follow(set: FieldsProps['set'], at: number): void {
  set(
    'shape',
    Object.keys(SHAPES).find((name) => SHAPES[name] === at),
  );
  set('follow', Object.values(SHAPES).includes(at) ? undefined : at);
}

function Fields({ bodies, values, set }: FieldsProps) {
  return (
    <>
      <FollowSlider value={followOf(values)} onChange={(at) => follow(set, at)} />
      <HoleList bodies={bodies} />
    </>
  );
}

export default defineOperation({
  name: 'fill-holes',
  // The slider shapes what is seen: once tried, the trial follows it.
  trial: 'followed',
  Fields,
  RerunFields: ({ values, set }) => <FollowSlider value={followOf(values)} onChange={(at) => follow(set, at)} />,
  // The slider stands for both, and "all up to" for the widest.
  hides: (parameter) => ['shape', 'follow', 'maxDiameter'].includes(parameter),
  toSend: (sent, { bodies = [], rims }) => ({ ...sent, ...closingToSend(listedHoles(bodies), rims.closing) }),
  gestureOf: (parameters, { bodies }) => {
    const [told, holes] = [parameters as ToldRims, listedHoles(bodies)];
    return { rims: { ...NO_RIM_GESTURE, closing: { ...withWishes(NOTHING_SAID, wishesOf(told, holes)), ...drawnBefore(told, holes) } } };
  },
  lacking: (sent, { bodies, data, rims }) => {
    if ((bodies ?? data.snapshot.bodies).every((b) => b.figures?.holeCount === 0)) return 'Every rim is closed already.';
    if (rims.pending || rims.drawn) return 'A stretch waits: choose what to close, join it with another, or press Esc.';
    const isNothing = Array.isArray(sent.rims) && sent.rims.length === 0 && [sent.leaveOpen, sent.parts, sent.strips].every((list) => list === undefined);
    return isNothing ? 'Choose a rim to close, or one to leave open.' : null;
  },
});
