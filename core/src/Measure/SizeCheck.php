<?php

declare(strict_types=1);

namespace Emberstone\Core\Measure;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Foundation\Unit;

/** Finds passes whose size speaks for another unit than they were read in: the others are some 10, 25.4, 304.8 or 1000 times as large or small. */
final class SizeCheck
{
    /** Views of one part differ in size by less than this; units by more. */
    private const SAME = 4.0;

    /** A factor between units counts as met within this. */
    private const NEAR = 1.6;

    /**
     * @template K of array-key
     *
     * @param  array<K, array{sizeMm: float, unit: Unit}>  $items  by id: longest side, and the unit it was read in
     * @return array<K, array{unit: Unit, times: float}> by id: the unit that would bring it to the size of the others, and how many times larger it would be
     */
    public static function oddOnes(array $items): array
    {
        $items = array_filter($items, fn (array $item) => $item['sizeMm'] > 0.0);
        if (count($items) < 2) {
            return [];
        }
        $usual = Median::of(array_values(array_column($items, 'sizeMm')));
        $odd = [];
        foreach ($items as $id => ['sizeMm' => $size, 'unit' => $unit]) {
            $times = $usual / $size;
            if ($times < self::SAME && $times > 1.0 / self::SAME) {
                continue;
            }
            $best = null;
            foreach (Unit::cases() as $other) {
                $off = abs(log($other->inMillimetres() / $unit->inMillimetres() / $times));
                if ($other !== $unit && $off < log(self::NEAR) && ($best === null || $off < $best[0])) {
                    $best = [$off, $other];
                }
            }
            if ($best !== null) {
                $odd[$id] = ['unit' => $best[1], 'times' => $best[1]->inMillimetres() / $unit->inMillimetres()];
            }
        }

        return $odd;
    }
}
