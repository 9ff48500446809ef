<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Kernel;

/**
 * Surroundings, as histograms, that look alike.
 *
 * @internal
 */
final readonly class Lookalikes
{
    /** Each is paired with so many: the right one is seldom the very first. Kept in variables of their own below. */
    public const ALIKE = 3;

    /** Rounds in which the direction of most difference is found: near it is enough. */
    private const POWERS = 12;

    /** @var list<float> of unit length */
    private array $direction;

    /** @var list<float> how far each lies along it */
    private array $along;

    /** @param  list<float>  $histograms  ShapeHistograms::BINS each */
    public function __construct(private array $histograms)
    {
        [$this->direction, $this->along] = self::spread($histograms);
    }

    /**
     * Who of the others looks most like each of these. Looked for outwards along the direction in which histograms differ most: as far as two lie apart along it, they lie apart at least.
     *
     * @return list<int> ALIKE for each, the most alike first; -1 for none
     */
    public function mostLike(self $other): array
    {
        $bins = ShapeHistograms::BINS;
        [$a, $b] = [$this->histograms, $other->histograms];
        $order = $other->along;
        asort($order);
        $sorted = array_values($order);
        $order = array_keys($order);
        $last = count($sorted) - 1;
        $alike = [];
        for ($at = 0, $na = count($a); $at < $na; $at += $bins) {
            $place = 0.0;
            for ($c = 0; $c < $bins; $c++) {
                $place += $a[$at + $c] * $other->direction[$c];
            }
            // The first that is not before it.
            for ($high = 0, $end = $last + 1; $high < $end;) {
                $middle = $high + $end >> 1;
                if ($sorted[$middle] < $place) {
                    $high = $middle + 1;
                } else {
                    $end = $middle;
                }
            }
            $low = $high - 1;
            [$d0, $d1, $d2] = [INF, INF, INF];
            $j0 = $j1 = $j2 = -1;
            while ($low >= 0 || $high <= $last) {
                $below = $low >= 0 ? $place - $sorted[$low] : INF;
                $above = $high <= $last ? $sorted[$high] - $place : INF;
                $near = $below < $above ? $below : $above;
                if ($near * $near >= $d2) {
                    break;
                }
                $j = $below < $above ? $order[$low--] : $order[$high++];
                $o = $bins * $j;
                $d = 0.0;
                for ($c = 0; $c < $bins && $d < $d2; $c += 11) {
                    for ($e = $c + 11, $k = $c; $k < $e; $k++) {
                        $x = $a[$at + $k] - $b[$o + $k];
                        $d += $x * $x;
                    }
                }
                if ($d < $d0) {
                    [$d2, $j2, $d1, $j1, $d0, $j0] = [$d1, $j1, $d0, $j0, $d, $j];
                } elseif ($d < $d1) {
                    [$d2, $j2, $d1, $j1] = [$d1, $j1, $d, $j];
                } elseif ($d < $d2) {
                    [$d2, $j2] = [$d, $j];
                }
            }
            array_push($alike, $j0, $j1, $j2);
        }

        return $alike;
    }

    /**
     * The direction in which histograms differ most, and how far along it each lies.
     *
     * @param  list<float>  $histograms
     * @return array{list<float>, list<float>} of unit length (power iteration); a number each
     */
    private static function spread(array $histograms): array
    {
        $bins = ShapeHistograms::BINS;
        $count = max(1, intdiv(count($histograms), $bins));
        $mean = array_fill(0, $bins, 0.0);
        foreach ($histograms as $k => $v) {
            $mean[$k % $bins] += $v / $count;
        }
        $direction = array_fill(0, $bins, 1.0 / sqrt($bins));
        for ($round = 0; $round < self::POWERS; $round++) {
            $next = array_fill(0, $bins, 0.0);
            for ($o = 0, $e = count($histograms); $o < $e; $o += $bins) {
                $at = 0.0;
                for ($c = 0; $c < $bins; $c++) {
                    $at += ($histograms[$o + $c] - $mean[$c]) * $direction[$c];
                }
                for ($c = 0; $c < $bins; $c++) {
                    $next[$c] += $at * ($histograms[$o + $c] - $mean[$c]);
                }
            }
            $length = sqrt(array_sum(array_map(fn (float $v) => $v * $v, $next)));
            if ($length <= 0.0) {
                break;
            }
            $direction = array_map(fn (float $v) => $v / $length, $next);
        }
        $along = [];
        for ($o = 0, $e = count($histograms); $o < $e; $o += $bins) {
            $at = 0.0;
            for ($c = 0; $c < $bins; $c++) {
                $at += $histograms[$o + $c] * $direction[$c];
            }
            $along[] = $at;
        }

        return [$direction, $along];
    }
}
