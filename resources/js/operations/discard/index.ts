import { defineOperation } from '../module';

export default defineOperation({ name: 'discard', trial: 'never' });
