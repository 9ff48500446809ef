<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\PreparedPass;

/**
 * How two passes lie on each other in a place, once they are tightened there.
 *
 * @internal
 *
 * @phpstan-import-type Pair from AssemblyScore
 */
final readonly class PairScore
{
    /** Spacings within which surface is looked for before it is tightened: places are rough. */
    private const REACH = 5.0;

    /**
     * @param  list<PreparedPass>  $passes
     * @param  float  $alike  places that bring nothing farther apart than this are the same, mm
     */
    public function __construct(
        private Icp $fit,
        private array $passes,
        private AssemblyScore $standing,
        private float $spacing,
        private float $alike,
    ) {
    }

    /** @return list<Pair> one, or none where the passes have nothing to do with each other */
    public function of(int $i, int $j, RigidTransform $place): array
    {
        [$moving, $on] = [$this->passes[$i], $this->passes[$j]];
        $were = [$moving->transform, $on->transform];
        $moving->transform = $place;
        $on->transform = RigidTransform::identity();
        $pairs = $this->judged($i, $j, $place);
        [$moving->transform, $on->transform] = $were;

        return $pairs;
    }

    /**
     * What speaks for and against two passes where they stand, once they are tightened.
     *
     * @return list<Pair>
     */
    private function judged(int $i, int $j, RigidTransform $place): array
    {
        $moving = $this->passes[$i];
        if ($this->fit->lies($i, $j, self::REACH * $this->spacing, 9)['near'] < Overlaps::LEAST * $moving->sampleCount() / 9) {
            // Hardly any surface in common: only what was seen through tells anything, and only as far as the place is exact.
            return AssemblyScore::against($i, $j, $this->standing->seenThrough($i, $j, 0.5 * $this->alike));
        }
        // Two passes with little in common can slide on each other when they are tightened alone, before what the other saw.
        $before = $this->standing->seenThrough($i, $j);
        $this->fit->onto([$i], [$j], 9, self::REACH * $this->spacing);
        if (PoseDistance::apart($moving->transform, $place, $moving->corners()) > $this->alike) {
            $moving->transform = $place;
        }

        $after = $this->standing->seenThrough($i, $j);
        $against = min($before, $after);

        return $this->standing->rulesOut($i, $j, $against)
            ? AssemblyScore::against($i, $j, $against)
            : array_map(fn (array $pair) => ['against' => $against] + $pair, $this->standing->pair($i, $j, $after));
    }
}
