import { defineOperation } from '../module';

export default defineOperation({ name: 'copy', trial: 'never' });
