import { defineOperation } from '../module';

export default defineOperation({ name: 'centre', trial: 'never' });
