import { defineOperation } from '../module';

export default defineOperation({ name: 'cut-away', trial: 'never' });
