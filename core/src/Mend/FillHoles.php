<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\PartProgress;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Closes boundary loops with new surface, marked as filled.
 *
 * Source    see RimFiller.
 * Input     any mesh; vertices that join two sheets are split first.
 * Keeps     every vertex and face there was, but a ring of faces where a patch could not be laid without passing through it.
 * Cost      grows with the rim's length cubed up to 260 edges; a rim of 600 edges takes about 2 s.
 *
 * @implements Operation<FillHolesParameters>
 */
final class FillHoles implements Operation
{
    /** How often patches that pass through other surface are cut out and laid anew. */
    private const RECUTS = 3;

    public static function about(): About
    {
        return new About('fill-holes', Stage::Mend, 'Fill holes', 'Closes open rims with new surface, marked as filled.', 'meshes', FillHolesParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(1.0 + 4e-6 * $workpiece->faceCount(), 60 + 4e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $filled = $left = $faces = $replaced = 0;
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, &$filled, &$left, &$faces, &$replaced): TriangleMesh {
            $wanted = fn (array $rim, array $p): bool => $parameters->maxDiameter === null || BoundingBox::of(self::points($rim, $p))->diagonal() <= $parameters->maxDiameter;
            $filling = (new RimFiller)->fill($mesh, $parameters->shape, $wanted, new PartProgress($progress, 0.0, 0.8));
            $filled += $filling->filled;
            $left += $filling->left;
            $closed = $filling->mesh;
            for ($round = 0; $filling->crossings > 0 && $round < self::RECUTS; $round++) {
                $progress->advance('cutting patches free', 0.8 + 0.2 * $round / self::RECUTS);
                $freed = Recut::withoutCrossingsOfPatches($closed, $parameters->shape);
                if ($freed === null) {
                    break;
                }
                $closed = $freed;
            }
            $faces += $closed->faceCount() - $mesh->faceCount();
            $replaced += self::measured($mesh) - self::measured($closed);

            return $closed;
        }, $progress);
        $notes = $left > 0 ? [$left === 1 ? '1 rim is wider than the limit and stays open.' : "$left rims are wider than the limit and stay open."] : [];
        if ($replaced > 0) {
            $notes[] = "$replaced measured faces at the rims were replaced, where a patch passed through them.";
        }

        return new Result($after, ($filled + $left)." → $left holes", ['holes' => $filled + $left], ['holes' => $left, 'faces' => $faces], $notes);
    }

    private static function measured(TriangleMesh $mesh): int
    {
        return $mesh->faceCount() - count(array_filter($mesh->origin));
    }

    /**
     * @param  list<int>  $rim
     * @param  array<int, float>  $p
     * @return list<float> flat xyz
     */
    private static function points(array $rim, array $p): array
    {
        $points = [];
        foreach ($rim as $v) {
            array_push($points, $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]);
        }

        return $points;
    }
}
