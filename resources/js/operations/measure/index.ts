import { datumsOf } from '../../features/deliver/measured';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'measure',
  // Of what a kind is not measured of, nothing is sent.
  toSend: (sent) => (Array.isArray(sent.of) ? { ...sent, of: sent.of.slice(0, datumsOf(String(sent.kind))) } : sent),
  lacking: (sent, { data }) => {
    const wanted = datumsOf(String(sent.kind));
    const given = (sent.of as unknown[] | undefined)?.length ?? 0;
    if (given < wanted && data.snapshot.datums.length === 0) return 'Add a datum first: what is measured lies between datums.';
    if (given < wanted) return wanted === 2 ? 'Choose two datums to measure between.' : 'Choose the datum that is measured.';
    return sent.nominal === undefined && (sent.plus !== undefined || sent.minus !== undefined) ? 'Say what it should be, or leave out what is allowed.' : null;
  },
});
