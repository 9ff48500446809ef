<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

/** An area of a mesh and the shape that it is part of. */
final readonly class FoundShape
{
    public const REVOLVED = 'revolved';

    public const FREE = 'free';

    /**
     * @param  string  $kind  of TurnedFit::KINDS, `revolved` or `free`
     * @param  TurnedShape|null  $shape  of a revolved area a cylinder about its axis, as wide as it is on average; null for free form
     * @param  int  $faces  how many it has
     * @param  float  $area  mm2
     * @param  float  $rms  mm: of the places that belong to it, away from its border, off the shape, root mean square; of a revolved area how far its normals pass the axis; 0 for free form
     * @param  float  $max  mm: the largest of the same
     */
    public function __construct(public string $kind, public ?TurnedShape $shape, public int $faces, public float $area, public float $rms, public float $max)
    {
    }
}
