<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Mesh\TriangleMesh;

/** Joins vertices that stand in the same place. */
final class Weld
{
    /**
     * Vertices closer than the tolerance (same cell of that size, or exactly equal for 0) become one; faces that collapse go.
     */
    public static function mesh(TriangleMesh $mesh, float $tolerance): TriangleMesh
    {
        $p = $mesh->positions;
        $w = $tolerance > 0.0 ? 1.0 / $tolerance : 0.0;
        $seen = [];
        $map = $positions = $support = [];
        $next = 0;
        for ($v = 0, $o = 0, $n = $mesh->vertexCount(); $v < $n; $v++, $o += 3) {
            // Adding 0.0 makes -0.0 and 0.0 one key.
            $key = $w > 0.0
                ? pack('q3', (int) round($p[$o] * $w), (int) round($p[$o + 1] * $w), (int) round($p[$o + 2] * $w))
                : pack('e3', $p[$o] + 0.0, $p[$o + 1] + 0.0, $p[$o + 2] + 0.0);
            $at = $seen[$key] ?? -1;
            if ($at < 0) {
                $at = $seen[$key] = $next++;
                $positions[] = $p[$o];
                $positions[] = $p[$o + 1];
                $positions[] = $p[$o + 2];
                if ($mesh->support !== []) {
                    $support[] = $mesh->support[$v];
                }
            }
            $map[] = $at;
        }
        $faces = $origin = [];
        for ($t = 0, $o = 0, $m = $mesh->faceCount(); $t < $m; $t++, $o += 3) {
            [$a, $b, $c] = [$map[$mesh->faces[$o]], $map[$mesh->faces[$o + 1]], $map[$mesh->faces[$o + 2]]];
            if ($a === $b || $b === $c || $a === $c) {
                continue;
            }
            array_push($faces, $a, $b, $c);
            if ($mesh->origin !== []) {
                $origin[] = $mesh->origin[$t];
            }
        }

        return TriangleMesh::fromFlat($positions, $faces, $support, $origin);
    }
}
