<?php

declare(strict_types=1);

namespace Emberstone\Core\Rims;

use Closure;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Closes whole rims of a mesh: rims are cleaned, spanned by patches, and patches that pass through other surface or stand up in needles are cut out and laid anew. Filling holes and fusing both call it.
 */
final readonly class RimClosing
{
    /** How often patches that pass through other surface are cut out and laid anew. */
    private const RECUTS = 3;

    /**
     * @param  int  $rims  there were, wanted or not
     * @param  int  $left  rims still open
     * @param  int  $plainer  rims whose new surface could not be made as smooth as asked for
     */
    private function __construct(public TriangleMesh $mesh, public int $rims, public int $left, public int $plainer)
    {
    }

    /** @param  Closure(list<list<int>>, array<int, float>): array<int, mixed>  $wanted  which of the rims, given as loops of vertices and the positions of all vertices in mm, are to be closed: index => true */
    public static function of(TriangleMesh $mesh, PatchShape $shape, Closure $wanted, Progress $progress): self
    {
        $clean = CleanRims::of($mesh, $wanted);
        $filling = (new RimFiller)->fill($clean->mesh, $shape, $clean->wanted, new PartProgress($progress, 0.0, 0.8));
        $closed = $filling->mesh;
        for ($round = 0; $filling->crossings > 0 && $round < self::RECUTS; $round++) {
            $progress->advance('cutting patches free', 0.8 + 0.2 * $round / self::RECUTS);
            $freed = CutAndRefill::withoutCrossingsOfPatches($closed, $shape);
            if ($freed === null) {
                break;
            }
            $closed = $freed;
        }

        return new self($filling->needles === 0 ? $closed : CutAndRefill::withoutNeedlesOfPatches($closed, $shape), $clean->rims, $filling->left, $filling->plainer);
    }
}
