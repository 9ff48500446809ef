<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\HalfEdge;

/**
 * Sums of squared distances to the planes of the faces around a vertex: ten numbers a vertex, the upper triangle of a symmetric 4 x 4 matrix row by row, weighted by the areas of
 * the faces.
 *
 * Source    Garland & Heckbert 1997, "Surface Simplification Using Quadric Error Metrics", sections 5 and 6.
 *
 * @internal
 */
final class Quadrics
{
    /** Gathers for each vertex the planes of its faces as they are now, and their area. */
    public static function ofFaces(CollapsingMesh $mesh): void
    {
        [$V, $T] = [$mesh->vertices, $mesh->corners];
        $mesh->vertices = $mesh->quadrics = $mesh->rests = [];
        $Q = array_fill(0, 8 * $mesh->vertexCount, 0.0);
        $R = array_fill(0, 2 * $mesh->vertexCount, 0.0);
        $weight = $mesh->weight;
        for ($o = 3, $e = 4 * $mesh->vertexCount; $o < $e; $o += 4) {
            $V[$o] = 0.0;
        }
        for ($j = 0, $e = 4 * $mesh->faceCount; $j < $e; $j += 4) {
            $o = 4 * $T[$j];
            $ax = $V[$o];
            $ay = $V[$o + 1];
            $az = $V[$o + 2];
            $o = 4 * $T[$j + 1];
            $ux = $V[$o] - $ax;
            $uy = $V[$o + 1] - $ay;
            $uz = $V[$o + 2] - $az;
            $o = 4 * $T[$j + 2];
            $vx = $V[$o] - $ax;
            $vy = $V[$o + 1] - $ay;
            $vz = $V[$o + 2] - $az;
            $nx = $uy * $vz - $uz * $vy;
            $ny = $uz * $vx - $ux * $vz;
            $nz = $ux * $vy - $uy * $vx;
            $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            if ($l < 1e-300) {
                continue;
            }
            $nx /= $l;
            $ny /= $l;
            $nz /= $l;
            $d = -($nx * $ax + $ny * $ay + $nz * $az);
            $area = 0.5 * $l;
            $w = $T[$j + 3] < CollapsingMesh::WEIGHTED ? $area : $weight * $area;
            $wx = $w * $nx;
            $wy = $w * $ny;
            $wz = $w * $nz;
            $wd = $w * $d;
            $xx = $wx * $nx;
            $xy = $wx * $ny;
            $xz = $wx * $nz;
            $xd = $wx * $d;
            $yy = $wy * $ny;
            $yz = $wy * $nz;
            $yd = $wy * $d;
            $zz = $wz * $nz;
            $zd = $wz * $d;
            $dd = $wd * $d;
            for ($c = $j; $c < $j + 3; $c++) {
                $v = $T[$c];
                $V[4 * $v + 3] += $area;
                $o = 8 * $v;
                $Q[$o] += $xx;
                $Q[$o + 1] += $xy;
                $Q[$o + 2] += $xz;
                $Q[$o + 3] += $xd;
                $Q[$o + 4] += $yy;
                $Q[$o + 5] += $yz;
                $Q[$o + 6] += $yd;
                $Q[$o + 7] += $zz;
                $R[2 * $v] += $zd;
                $R[2 * $v + 1] += $dd;
            }
        }
        [$mesh->vertices, $mesh->quadrics, $mesh->rests] = [$V, $Q, $R];
    }

    /**
     * Adds to both ends of each open edge the plane through it that stands square on its face, so that a rim keeps its place.
     */
    public static function holdRims(CollapsingMesh $mesh, Stars $stars, float $weight): void
    {
        [$V, $Q, $R, $states, $T] = [$mesh->vertices, $mesh->quadrics, $mesh->rests, $mesh->states, $mesh->corners];
        $mesh->quadrics = $mesh->rests = [];
        for ($j = 0, $e = 4 * $mesh->faceCount; $j < $e; $j++) {
            if (($j & 3) === 3) {
                continue;
            }
            $a = $T[$j];
            $b = $T[($j & 3) === 2 ? $j - 2 : $j + 1];
            if (($states[$a] & $states[$b] & CollapsingMesh::AT_RIM) === 0 || $stars->hold($T, $b, $a)) {
                continue;
            }
            $o = 4 * $a;
            $ax = $V[$o];
            $ay = $V[$o + 1];
            $az = $V[$o + 2];
            $ex = $V[4 * $b] - $ax;
            $ey = $V[4 * $b + 1] - $ay;
            $ez = $V[4 * $b + 2] - $az;
            $o = 4 * $T[($j & 3) === 0 ? $j + 2 : $j - 1];
            $nx = $V[$o] - $ax;
            $ny = $V[$o + 1] - $ay;
            $nz = $V[$o + 2] - $az;
            $lengthSq = $ex * $ex + $ey * $ey + $ez * $ez;
            if ($lengthSq < 1e-300) {
                continue;
            }
            // What of the way to the third corner is square to the edge.
            $along = ($nx * $ex + $ny * $ey + $nz * $ez) / $lengthSq;
            $nx -= $along * $ex;
            $ny -= $along * $ey;
            $nz -= $along * $ez;
            $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            if ($l < 1e-300) {
                continue;
            }
            $nx /= $l;
            $ny /= $l;
            $nz /= $l;
            $d = -($nx * $ax + $ny * $ay + $nz * $az);
            $w = $weight * $lengthSq;
            foreach ([$a, $b] as $v) {
                $o = 8 * $v;
                $Q[$o] += $w * $nx * $nx;
                $Q[$o + 1] += $w * $nx * $ny;
                $Q[$o + 2] += $w * $nx * $nz;
                $Q[$o + 3] += $w * $nx * $d;
                $Q[$o + 4] += $w * $ny * $ny;
                $Q[$o + 5] += $w * $ny * $nz;
                $Q[$o + 6] += $w * $ny * $d;
                $Q[$o + 7] += $w * $nz * $nz;
                $R[2 * $v] += $w * $nz * $d;
                $R[2 * $v + 1] += $w * $d * $d;
            }
        }
        [$mesh->quadrics, $mesh->rests] = [$Q, $R];
    }
}
