import { defineOperation } from '../module';

export default defineOperation({ name: 'reshape-patch', hides: (parameter, { values }) => parameter === 'blend' && values.shape === 'cover' });
