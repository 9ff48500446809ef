import type { ParameterInfo } from '../../api/types';
import { moduleOf } from '../../operations';
import type { Values } from '../../operations/module';

/** Are the other parameters set so that this one is of use? */
export const isOfUse = (p: Pick<ParameterInfo, 'with'>, values: Values): boolean => p.with.every(({ name, value }) => (values[name] ?? null) === value);

/** Fields that others, or picks, leave without a use are not shown. */
export const hasNoUse = (operation: string, p: Pick<ParameterInfo, 'name' | 'with'>, now: { values: Values; picks: number; selected: number; datumBy: string }): boolean => !isOfUse(p, now.values) || (moduleOf(operation).hides?.(p.name, now) ?? false);
