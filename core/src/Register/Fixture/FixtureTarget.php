<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Geometry\Vector3;

/**
 * What is known of a target: where its balls and its flat faces lie.
 *
 * @internal
 */
final readonly class FixtureTarget
{
    /**
     * @param  list<array{float, float, float}>  $balls  centres, mm
     * @param  list<array{at: array{float, float, float}, normal: array{float, float, float}}>  $planes  a place on each, mm, and its unit normal, outwards
     */
    public function __construct(
        public float $radius,
        public array $balls,
        public array $planes,
    ) {
    }

    /** Half as wide as the places on it lie apart, mm: what poses are compared on. */
    public function reach(): float
    {
        $places = $this->places();
        $reach = $this->radius;
        foreach ($places as $k => $a) {
            foreach (array_slice($places, $k + 1) as $b) {
                $reach = max($reach, 0.5 * Vector3::length(Vector3::minus($a, $b)));
            }
        }

        return $reach;
    }

    /** @return array{float, float, float} the middle of the places on it */
    public function middle(): array
    {
        $places = $this->places();

        return array_map(fn (int $c) => array_sum(array_column($places, $c)) / max(1, count($places)), [0, 1, 2]);
    }

    /** @return list<array{float, float, float}> */
    private function places(): array
    {
        return [...$this->balls, ...array_column($this->planes, 'at')];
    }
}
