<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Icp;

use Emberstone\Core\Algorithms\Linear\SymmetricEigen;

/**
 * Surroundings, as histograms, that look alike.
 *
 * Histograms are turned to the axes along which they differ most, which leaves their distances as they are: most of any distance lies along the first few.
 *
 * @internal
 */
final readonly class DescriptorMatching
{
    /** How many each is paired with: the right one is seldom the very first. Kept in variables of their own below. */
    public const ALIKE = 3;

    /** Steps by which histograms are taken to find the axes: near them is enough. */
    private const SOME = 5;

    /** Axes after which, and after as many again each time, distances that are too large are given up. */
    private const AT_A_TIME = 4;

    /**
     * @param  list<float>  $turned  BINS numbers each, in the order of the first of them
     * @param  list<int>  $order  which one each was
     */
    private function __construct(
        private array $turned,
        private array $order,
    ) {
    }

    /**
     * @param  list<list<float>>  $sets  histograms, FpfhDescriptors::BINS numbers each
     * @return list<self>
     */
    public static function of(array $sets): array
    {
        $axes = self::axes($sets);

        return array_map(function (array $histograms) use ($axes): self {
            $turned = self::turned($histograms, $axes);
            $first = [];
            for ($o = 0, $e = count($turned); $o < $e; $o += FpfhDescriptors::BINS) {
                $first[] = $turned[$o];
            }
            asort($first);
            $order = array_keys($first);
            $sorted = [];
            foreach ($order as $i) {
                array_push($sorted, ...array_slice($turned, FpfhDescriptors::BINS * $i, FpfhDescriptors::BINS));
            }

            return new self($sorted, $order);
        }, $sets);
    }

    /**
     * Who of the others looks most like each of these. Looked for outwards along the first axis: as far as two lie apart along it, they lie apart at least.
     *
     * @return list<int> ALIKE for each, the most alike first; -1 for none
     */
    public function mostLike(self $other): array
    {
        $bins = FpfhDescriptors::BINS;
        [$a, $b, $order] = [$this->turned, $other->turned, $other->order];
        $last = count($order) - 1;
        $start = 0;
        $alike = array_fill(0, self::ALIKE * count($this->order), -1);
        foreach ($this->order as $slot => $i) {
            $at = $bins * $slot;
            $place = $a[$at];
            // The first that is not before it; these come in order too.
            while ($start <= $last && $b[$bins * $start] < $place) {
                $start++;
            }
            $high = $start;
            $low = $start - 1;
            [$d0, $d1, $d2] = [INF, INF, INF];
            $j0 = $j1 = $j2 = -1;
            while ($low >= 0 || $high <= $last) {
                $below = $low >= 0 ? $place - $b[$bins * $low] : INF;
                $above = $high <= $last ? $b[$bins * $high] - $place : INF;
                if ($below < $above) {
                    $j = $low--;
                    $d = $below * $below;
                } else {
                    $j = $high++;
                    $d = $above * $above;
                }
                if ($d >= $d2) {
                    break;
                }
                $o = $bins * $j;
                for ($c = 1; $c < $bins && $d < $d2; $c = $e) {
                    for ($e = $c + self::AT_A_TIME, $k = $c; $k < $e; $k++) {
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
            $i *= self::ALIKE;
            $alike[$i] = $order[$j0] ?? -1;
            $alike[$i + 1] = $order[$j1] ?? -1;
            $alike[$i + 2] = $order[$j2] ?? -1;
        }

        return $alike;
    }

    /**
     * Axes along which histograms differ most first (principal components).
     *
     * @param  list<list<float>>  $sets
     * @return list<list<float>> of unit length, square to each other
     */
    private static function axes(array $sets): array
    {
        $bins = FpfhDescriptors::BINS;
        $some = [];
        foreach ($sets as $histograms) {
            for ($o = 0, $e = count($histograms); $o < $e; $o += $bins * self::SOME) {
                $some[] = array_slice($histograms, $o, $bins);
            }
        }
        $mean = array_fill(0, $bins, 0.0);
        foreach ($some as $one) {
            foreach ($one as $c => $v) {
                $mean[$c] += $v / count($some);
            }
        }
        $covariance = array_fill(0, $bins * $bins, 0.0);
        foreach ($some as $one) {
            for ($r = 0; $r < $bins; $r++) {
                $x = $one[$r] - $mean[$r];
                for ($c = 0, $o = $r * $bins; $c < $bins; $c++) {
                    $covariance[$o + $c] += $x * ($one[$c] - $mean[$c]);
                }
            }
        }

        return array_reverse(SymmetricEigen::of($covariance, $bins)['vectors']);
    }

    /**
     * @param  list<float>  $histograms
     * @param  list<list<float>>  $axes
     * @return list<float>
     */
    private static function turned(array $histograms, array $axes): array
    {
        $bins = FpfhDescriptors::BINS;
        $turned = [];
        for ($o = 0, $e = count($histograms); $o < $e; $o += $bins) {
            foreach ($axes as $axis) {
                $sum = 0.0;
                for ($c = 0; $c < $bins; $c++) {
                    $sum += $axis[$c] * $histograms[$o + $c];
                }
                $turned[] = $sum;
            }
        }

        return $turned;
    }
}
