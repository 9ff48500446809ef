<?php

declare(strict_types=1);

namespace Emberstone\Core\Rims;

use Emberstone\Core\Mesh\TriangleMesh;

/** What RimFiller gives back. */
final readonly class Filling
{
    /**
     * @param  int  $filled  rims closed
     * @param  int  $left  rims left open because they were not wanted
     * @param  int  $crossings  pairs of triangles, one of them new, that still pass through each other
     * @param  int  $needles  new vertices that still stand up like needles
     * @param  int  $plainer  rims whose new surface could not be made as smooth as asked for
     */
    public function __construct(public TriangleMesh $mesh, public int $filled, public int $left, public int $crossings, public int $needles = 0, public int $plainer = 0)
    {
    }

    /** @return list<string> one where new surface is not as smooth as was asked for */
    public static function plainInWords(int $plainer): array
    {
        return $plainer === 0 ? [] : [sprintf('%s came out plainer than asked for: what is around %s gives no smooth surface. Look at %2$s, or cut the rim clean and close it anew.', $plainer === 1 ? 'One hole' : "$plainer holes", $plainer === 1 ? 'it' : 'them')];
    }
}
