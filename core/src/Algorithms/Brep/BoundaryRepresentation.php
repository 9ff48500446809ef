<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Brep;

use Emberstone\Core\Algorithms\Shapes\TurnedShape;

/**
 * A part as faces of endless shapes, each cut out by loops of edges that neighbours share.
 *
 * @phpstan-import-type Point from EdgeCurve
 *
 * @phpstan-type Edge array{from: int, to: int, curve: EdgeCurve}
 * @phpstan-type Face array{shape: TurnedShape, facesOut: bool, loops: list<list<int>>}
 */
final readonly class BoundaryRepresentation
{
    /**
     * @param  list<Point>  $corners  mm
     * @param  list<Edge>  $edges  from one corner to another, or to the same
     * @param  list<Face>  $faces  whether the shape's own normal (out of an axis, along the direction of a plane) is the face's; loops of edges with the face on their left: k + 1 is edge k run from its
     *                             beginning, -k - 1 from its end
     * @param  list<array{faces: list<int>, isClosed: bool}>  $shells  faces that hang together
     * @param  float  $farthest  mm: how far an edge or a corner lies off a shape that it bounds, at most
     */
    public function __construct(public array $corners, public array $edges, public array $faces, public array $shells, public float $farthest = 0.0)
    {
    }
}
