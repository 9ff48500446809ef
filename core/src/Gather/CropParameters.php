<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Param;

/** What `crop` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class CropParameters
{
    /** @param  array<string, mixed>  $box centre, size and, if it is turned, turn: three numbers each: millimetres, millimetres, degrees about X, then Y, then Z */
    public function __construct(
        #[Param('Box', 'Its middle, its size and how it is turned.', picks: 'box')]
        public array $box,
        #[Param('Then', 'Delete what is outside, or copy what is inside to a new body.', choices: ['delete', 'copy'])]
        public string $outside = 'delete',
    ) {
        foreach (['centre', 'size', 'turn'] as $key) {
            $value = $box[$key] ?? ($key === 'turn' ? [0.0, 0.0, 0.0] : null);
            if (! is_array($value) || count($value) !== 3 || array_filter($value, fn ($v) => ! (is_int($v) || is_float($v)) || ! is_finite((float) $v)) !== []) {
                throw InvalidParameter::of('box', "needs a $key of three finite numbers");
            }
        }
        if (min(array_map(floatval(...), $box['size'])) <= 0.0) {
            throw InvalidParameter::of('box', 'has a side of no length; every side must be greater than 0');
        }
    }

    /** From project coordinates to those of the box, in which it reaches from -half its size to half of it. */
    public function intoBox(): RigidTransform
    {
        [$x, $y, $z] = array_map(floatval(...), array_values($this->box['centre']));
        [$a, $b, $c] = array_map(fn ($degrees) => deg2rad((float) $degrees), array_values($this->box['turn'] ?? [0.0, 0.0, 0.0]));

        return RigidTransform::turn([1.0, 0.0, 0.0], $a)->then(RigidTransform::turn([0.0, 1.0, 0.0], $b))->then(RigidTransform::turn([0.0, 0.0, 1.0], $c))->then(RigidTransform::shift($x, $y, $z))->inverse();
    }

    /** @return array{float, float, float} */
    public function half(): array
    {
        [$x, $y, $z] = array_map(fn ($side) => 0.5 * (float) $side, array_values($this->box['size']));

        return [$x, $y, $z];
    }
}
