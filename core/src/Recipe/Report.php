<?php

declare(strict_types=1);

namespace Emberstone\Core\Recipe;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;

/** The keys of `inspect`, for any geometry. */
final class Report
{
    /** @return array<string, mixed> with the key `evidence` besides: shares of the area */
    public static function of(TriangleMesh|PointCloud $geometry, ?Unit $unit = null): array
    {
        $box = BoundingBox::of($geometry->positions);
        $inspection = $geometry instanceof TriangleMesh ? Inspection::of($geometry) : null;

        return [
            'kind' => $inspection === null ? 'cloud' : 'mesh',
            'points' => intdiv(count($geometry->positions), 3),
            'faces' => $geometry instanceof TriangleMesh ? $geometry->faceCount() : null,
            ...($geometry instanceof TriangleMesh && $geometry->quads !== [] ? ['cells' => ['quads' => count($geometry->quads), 'triangles' => $geometry->cellCount() - count($geometry->quads)]] : []),
            'unit' => $unit?->value,
            'bounds' => ['min' => $box->min, 'max' => $box->max],
            ...($inspection?->toArray() ?? ['area' => null, 'volume' => null, 'closed' => null, 'pieces' => null, 'genus' => null, 'holes' => null, 'faults' => null]),
            'evidence' => self::evidence($inspection),
        ];
    }

    /** @return array{measured: float, filled: float, made?: float} what was made by a change of shape, and what was made up otherwise */
    private static function evidence(?Inspection $inspection): array
    {
        $measured = $inspection === null ? 1.0 : $inspection->measured;
        $made = $inspection->madeUp[TriangleMesh::MADE_UP[TriangleMesh::MADE]] ?? 0.0;

        return ['measured' => $measured, 'filled' => max(0.0, 1.0 - $measured - $made), ...($made > 0.0 ? ['made' => $made] : [])];
    }
}
