<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Closes boundary loops with new surface, marked as filled.
 *
 * Source    see RimFiller.
 * Input     any mesh; vertices that join two sheets are split first.
 * Keeps     every vertex and face there was.
 * Cost      grows with the rim's length cubed up to 260 edges; a rim of 600 edges takes about 2 s.
 *
 * @implements Operation<FillHolesParameters>
 */
final class FillHoles implements Operation
{
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
        $filled = $left = $faces = 0;
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, &$filled, &$left, &$faces): TriangleMesh {
            $wanted = fn (array $rim, array $p): bool => $parameters->maxDiameter === null || BoundingBox::of(self::points($rim, $p))->diagonal() <= $parameters->maxDiameter;
            $result = (new RimFiller)->fill($mesh, $parameters->shape, $wanted, $progress, $filled, $left);
            $faces += $result->faceCount() - $mesh->faceCount();

            return $result;
        }, $progress);
        $notes = $left > 0 ? [$left === 1 ? '1 rim is wider than the limit and stays open.' : "$left rims are wider than the limit and stay open."] : [];

        return new Result($after, ($filled + $left)." → $left holes", ['holes' => $filled + $left], ['holes' => $left, 'faces' => $faces], $notes);
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
