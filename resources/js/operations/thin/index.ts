import { defineOperation } from '../module';

export default defineOperation({ name: 'thin', trial: 'live' });
