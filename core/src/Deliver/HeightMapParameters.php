<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Param;

/** What `height-map` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class HeightMapParameters
{
    /** @param  string|array<mixed>  $along  X, Y or Z, the name of a datum, a vector of three numbers, or {"point", "direction"} in mm */
    public function __construct(
        #[Param('Along', 'The way it is looked at the part: the front is what is met first.', picks: 'axis')]
        public string|array $along = 'Z',
        #[Param('Pixel', 'How far apart the heights are.', unit: 'mm', positive: true, empty: 'by size')]
        public ?float $pixel = null,
        #[Param('Side', 'The front, the back, or both.', choices: ['front', 'back', 'both'])]
        public string $side = 'front',
    ) {
        if (is_array($along) && array_is_list($along)) {
            if (count($along) !== 3 || array_filter($along, fn (mixed $v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== [] || array_sum(array_map(fn (int|float $v) => $v * $v, $along)) < 1e-18) {
                throw InvalidParameter::of('along', 'must be a vector of three numbers that is not zero, an axis of the frame (X, Y, Z) or a datum');
            }
        } else {
            AxisChoice::check('along', $along);
        }
    }

    /**
     * @param  list<Datum>  $datums
     *
     * @throws InvalidParameter when there is no such datum
     */
    public function axis(array $datums): AxisChoice
    {
        if (is_array($this->along) && array_is_list($this->along)) {
            return AxisChoice::of('along', ['point' => [0.0, 0.0, 0.0], 'direction' => $this->along], $datums);
        }
        foreach (is_string($this->along) ? $datums : [] as $datum) {
            // At a plane it is looked from outside.
            if ($datum->kind === 'plane' && ($datum->name === $this->along || $datum->id === $this->along)) {
                return new AxisChoice($datum->origin, [-$datum->direction[0], -$datum->direction[1], -$datum->direction[2]], $datum->name);
            }
        }

        return AxisChoice::of('along', $this->along, $datums);
    }
}
