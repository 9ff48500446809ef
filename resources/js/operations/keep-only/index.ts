import { defineOperation } from '../module';

export default defineOperation({ name: 'keep-only', trial: 'never' });
