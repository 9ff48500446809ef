import { defineOperation } from '../module';
import { PASSES } from '../places';

export default defineOperation({ name: 'match', lacking: (_, { data }) => (data.snapshot.passes.length < 2 ? PASSES : null) });
