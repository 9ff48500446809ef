import { defineOperation } from '../module';

export default defineOperation({ name: 'remove-grazing', trial: 'live' });
