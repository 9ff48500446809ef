<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Mesh\TriangleMesh;

/** What RimFiller gives back. */
final readonly class Filling
{
    /**
     * @param  int  $filled  rims closed
     * @param  int  $left  rims left open because they were not wanted
     * @param  int  $crossings  pairs of triangles, one of them new, that still pass through each other
     * @param  int  $needles  new vertices that still stand up like needles
     */
    public function __construct(public TriangleMesh $mesh, public int $filled, public int $left, public int $crossings, public int $needles = 0)
    {
    }
}
