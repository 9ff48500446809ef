<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Icp;

use Emberstone\Core\Algorithms\Search\KdTree;

/**
 * The nearest point of one pass for each sample of another, remembered from round to round.
 *
 * A sample keeps its partner p, without a search, as long as it stands nearer to p than any other point can be: others were at least
 * `clear` away from where it stood when they were looked for, and it moved by s since, so |x - p| < clear - s. Exact, by the triangle
 * inequality (Greenspan & Godin 2001, "A nearest neighbor method for efficient ICP").
 *
 * @internal
 */
final class CorrespondenceCache
{
    /** @var array<int, float> where each sample stood when its partner was looked for, flat xyz */
    private array $places = [];

    /** @var array<int, int> offset in the tree's sorted points, -1 for none */
    private array $nearest = [];

    /** @var array<int, float> no other point was nearer than this to that place */
    private array $clear = [];

    public function __construct(public readonly KdTree $tree)
    {
    }

    /**
     * @param  array<int, float>  $q  samples, flat xyz, in the tree's coordinates; the same samples in the same order each time
     * @return array<int, int> offsets of partners nearer than the limit, -1 for none
     */
    public function of(array $q, float $limit): array
    {
        $s = $this->tree->sorted;
        [$places, $nearest, $clear] = [$this->places, $this->nearest, $this->clear];
        $this->places = $this->nearest = $this->clear = [];
        $count = intdiv(count($q), 3);
        $limitSq = $limit * $limit;
        if ($clear === []) {
            // First rounds move far: the cheaper search, which only knows that nothing is nearer than the partner.
            $this->tree->nearest($q, $limit, $nearest, $clear);
            foreach ($clear as $i => $squared) {
                $clear[$i] = sqrt($squared);
            }
            $places = $q;
            $found = $nearest;
        } else {
            $found = array_fill(0, $count, -1);
            $again = $open = [];
            for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
                $x = $q[$o];
                $y = $q[$o + 1];
                $z = $q[$o + 2];
                $dx = $x - $places[$o];
                $dy = $y - $places[$o + 1];
                $dz = $z - $places[$o + 2];
                // A hair less than the inequality allows, for rounding.
                $free = 0.999999 * $clear[$i] - sqrt($dx * $dx + $dy * $dy + $dz * $dz);
                $k = $nearest[$i];
                if ($k < 0) {
                    if ($free >= $limit) {
                        continue;
                    }
                } elseif ($free > 0.0) {
                    $dx = $x - $s[$k];
                    $dy = $y - $s[$k + 1];
                    $dz = $z - $s[$k + 2];
                    $d = $dx * $dx + $dy * $dy + $dz * $dz;
                    if ($d < $free * $free) {
                        if ($d < $limitSq) {
                            $found[$i] = $k;
                        }

                        continue;
                    }
                }
                $again[] = $i;
                $open[] = $x;
                $open[] = $y;
                $open[] = $z;
            }
            $partner = $apart = [];
            $this->tree->nearestAndClear($open, $limit, $partner, $apart);
            foreach ($again as $k => $i) {
                $found[$i] = $nearest[$i] = $partner[$k];
                $clear[$i] = $apart[$k];
                $places[3 * $i] = $open[3 * $k];
                $places[3 * $i + 1] = $open[3 * $k + 1];
                $places[3 * $i + 2] = $open[3 * $k + 2];
            }
        }
        [$this->places, $this->nearest, $this->clear] = [$places, $nearest, $clear];

        return $found;
    }
}
