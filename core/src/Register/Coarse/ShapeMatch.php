<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Algorithms\Icp\DescriptorMatching;
use Emberstone\Core\Algorithms\Icp\FpfhDescriptors;
use Emberstone\Core\Algorithms\Icp\PoseRansac;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * Guesses how one pass lies on another from the shape of both alone.
 *
 * Points whose surroundings look alike are paired; the poses that many such pairs agree on (PoseRansac) are the guesses.
 */
final class ShapeMatch
{
    /** Points of a pass that are compared: those with the most telling surroundings. */
    private const KEYS = 900;

    /**
     * @param  array<int, float>  $points  key points, flat xyz
     * @param  array<int, float>  $normals  outwards
     * @param  DescriptorMatching  $looks  of the surroundings of the key points
     */
    private function __construct(
        private readonly array $points,
        private readonly array $normals,
        private readonly DescriptorMatching $looks,
    ) {
    }

    /**
     * @param  list<array{points: list<float>, normals: list<float>}>  $clouds  flat xyz, evenly spread; outwards
     * @param  float  $radius  of the surroundings that are compared
     * @return list<self>
     */
    public static function of(array $clouds, float $radius): array
    {
        $tasks = array_map(fn (array $cloud) => fn (): string => self::telling(FpfhDescriptors::of($cloud['points'], $cloud['normals'], $radius)), $clouds);
        $keys = $histograms = [];
        foreach (Fork::map($tasks, Cores::count()) as $bytes) {
            $part = intdiv(strlen($bytes), 4 + 8 * FpfhDescriptors::BINS);
            $keys[] = Packed::toInts(substr($bytes, 0, 4 * $part));
            $histograms[] = Packed::toDoubles(substr($bytes, 4 * $part));
        }
        $looks = DescriptorMatching::of($histograms);

        return array_map(fn (array $cloud, array $which, DescriptorMatching $look) => new self(self::some($cloud['points'], $which), self::some($cloud['normals'], $which), $look), $clouds, $keys, $looks);
    }

    /**
     * The points with the most telling surroundings, and these.
     *
     * @param  array<int, float>  $all  histograms
     * @return string which points, as packed ints, then their histograms, as packed doubles
     */
    private static function telling(array $all): string
    {
        $bins = FpfhDescriptors::BINS;
        $count = intdiv(count($all), $bins);
        $mean = array_fill(0, $bins, 0.0);
        foreach ($all as $k => $v) {
            $mean[$k % $bins] += $v / $count;
        }
        // Flat places look like all other flat places: what differs most from the mean tells most.
        $telling = [];
        for ($i = 0; $i < $count; $i++) {
            $d = 0.0;
            for ($c = 0, $o = $bins * $i; $c < $bins; $c++) {
                $d += ($all[$o + $c] - $mean[$c]) ** 2;
            }
            $telling[$i] = $d;
        }
        arsort($telling);
        $which = array_slice(array_keys($telling), 0, self::KEYS);

        return Packed::ints($which).Packed::doubles(array_merge(...array_map(fn (int $i) => array_slice($all, $bins * $i, $bins), $which)));
    }

    /**
     * @param  list<float>  $xyz
     * @param  list<int>  $which
     * @return list<float>
     */
    private static function some(array $xyz, array $which): array
    {
        $some = [];
        foreach ($which as $i) {
            array_push($some, $xyz[3 * $i], $xyz[3 * $i + 1], $xyz[3 * $i + 2]);
        }

        return $some;
    }

    /**
     * Poses of this pass on another, the most agreed with first, no two alike.
     *
     * @param  float  $tolerance  how far apart the same place may be on both
     * @return list<RigidTransform> from this pass' coordinates to the other's
     */
    public function onto(self $other, float $tolerance, int $most): array
    {
        $pairs = $this->pairs($other);
        $p = $n = $q = $m = [];
        for ($k = 0, $e = count($pairs); $k < $e; $k += 2) {
            $here = 3 * $pairs[$k];
            $there = 3 * $pairs[$k + 1];
            for ($c = 0; $c < 3; $c++) {
                $p[] = $this->points[$here + $c];
                $n[] = $this->normals[$here + $c];
                $q[] = $other->points[$there + $c];
                $m[] = $other->normals[$there + $c];
            }
        }

        return array_map(RigidTransform::fromMatrix(...), (new PoseRansac($p, $n, $q, $m, $tolerance))->best($most));
    }

    /**
     * Each point of either with the points of the other that look most like it.
     *
     * @return list<int> indices, this and the other's in turn
     */
    private function pairs(self $other): array
    {
        $pairs = [];
        foreach ($this->looks->mostLike($other->looks) as $k => $j) {
            $pairs[intdiv($k, DescriptorMatching::ALIKE) << 32 | $j] = $j >= 0;
        }
        foreach ($other->looks->mostLike($this->looks) as $k => $i) {
            $pairs[$i << 32 | intdiv($k, DescriptorMatching::ALIKE)] = $i >= 0;
        }
        $flat = [];
        foreach (array_keys(array_filter($pairs)) as $pair) {
            $flat[] = $pair >> 32;
            $flat[] = $pair & 0xFFFFFFFF;
        }

        return $flat;
    }
}
