<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Step;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\Cache;

/**
 * How long steps take on the machine at hand: what operations estimate for themselves, corrected by how long such steps have taken here. Before any has been done a short
 * measurement of the machine stands in.
 */
final class StepPace
{
    /** How many of the latest finished steps are looked at: enough to outweigh one odd step, and few enough to follow when the machine changes. */
    private const REMEMBERED = 40;

    /** With fewer steps of a kind than this, steps of all kinds speak for it. */
    private const ENOUGH = 3;

    /** Steps whose estimate differs by no more than this factor are of a like size. */
    private const LIKE = 4.0;

    /** Below and above the middle, shares of the steps that a range leaves out: it holds eight of ten. */
    private const LEFT_OUT = 0.1;

    /** Of what is not known yet the range goes from half to twice. */
    private const UNKNOWN = 2.0;

    /** Seconds that the measurement takes on the machine that the operations' own estimates were made on, under the JIT. */
    private const REFERENCE = 0.048;

    private const MEASURED = 'machine-pace';

    /**
     * @param  float  $estimate  seconds, as the operation says
     * @return array{float, float} seconds; eight of ten such steps end between them
     */
    public function range(string $operation, float $estimate): array
    {
        $same = $this->done($operation);
        $like = $same->filter(fn (Step $step) => max($step->estimated, $estimate) <= self::LIKE * min($step->estimated, $estimate));
        $steps = collect([$like, $same, $this->done(null)])->first(fn (Collection $some) => $some->count() >= self::ENOUGH) ?? collect();
        $ratios = $steps->map(fn (Step $step) => $step->seconds / $step->estimated)->sort()->values()->all();
        if ($ratios === []) {
            $pace = (float) Cache::get(self::MEASURED, 1.0);

            return [$estimate * $pace / self::UNKNOWN, $estimate * $pace * self::UNKNOWN];
        }
        // Few steps say less of those to come.
        $wider = 1.0 + 1.0 / count($ratios);

        return [$estimate * self::quantile($ratios, self::LEFT_OUT) / $wider, $estimate * self::quantile($ratios, 1.0 - self::LEFT_OUT) * $wider];
    }

    /** Measures the machine, unless that was done before; for a worker to call, since estimates are about workers. */
    public function measure(): void
    {
        if (Cache::has(self::MEASURED)) {
            return;
        }
        $fastest = INF;
        for ($round = 0; $round < 3; $round++) {
            $fastest = min($fastest, self::kernel());
        }
        Cache::forever(self::MEASURED, $fastest / self::REFERENCE);
    }

    /** @return float seconds that a fixed piece of work takes, of the kind that operations do */
    private static function kernel(): float
    {
        $started = hrtime(true);
        $values = array_fill(0, 100_000, 1.5);
        $sum = 0.0;
        for ($round = 0; $round < 20; $round++) {
            foreach ($values as $i => $v) {
                $sum += $v * $values[99_999 - $i];
                $values[$i] = 0.5 * ($v + 1.5);
            }
        }
        // The sum is looked at, so that no compiler leaves the work out.
        $seconds = 1e-9 * (hrtime(true) - $started);

        return $sum > 0.0 ? $seconds : INF;
    }

    /** @return Collection<int, Step> the last that were done here, of one operation or of all */
    private function done(?string $operation): Collection
    {
        return Step::query()->where('state', 'done')->where('estimated', '>', 0)->where('seconds', '>', 0)->when($operation !== null, fn ($steps) => $steps->where('operation', $operation))
            ->orderByDesc('id')->limit(self::REMEMBERED)->get(['estimated', 'seconds'])->toBase();
    }

    /** @param  non-empty-list<float>  $sorted */
    private static function quantile(array $sorted, float $share): float
    {
        $at = $share * (count($sorted) - 1);
        $k = (int) floor($at);

        return $sorted[$k] + ($at - $k) * (($sorted[$k + 1] ?? $sorted[$k]) - $sorted[$k]);
    }
}
