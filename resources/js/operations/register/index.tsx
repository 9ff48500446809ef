import { useWorkspace } from '../../state/context';
import { defineOperation } from '../module';
import { PASSES } from '../places';

function Locked() {
  const locked = useWorkspace().data.snapshot.passes.filter((p) => p.locked).length;
  return locked === 0 ? null : <p>{locked === 1 ? '1 pass is' : `${locked} passes are`} locked in the tray and will not move.</p>;
}

export default defineOperation({ name: 'register', Fields: Locked, lacking: (_, { data }) => (data.snapshot.passes.length < 2 ? PASSES : null) });
