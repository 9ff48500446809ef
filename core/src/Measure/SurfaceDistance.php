<?php

declare(strict_types=1);

namespace Emberstone\Core\Measure;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\PseudoNormals;
use Emberstone\Core\Algorithms\Surface\Sampling;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;

/** Distances from points to a surface. */
final class SurfaceDistance
{
    /**
     * Distances of points sampled on A (evenly by area; a cloud's own points) to the surface B.
     *
     * @param  int|null  $samples  how many points at most; all points of a cloud, 50 000 on a mesh when null
     * @return array{samples: int, rms: float, mean: float, p95: float, max: float, signedMean: float} mm; signed is positive outside B
     *
     * @throws UnsuitableInput when there is nothing to compare, or nothing to compare with
     */
    public static function compare(TriangleMesh|PointCloud $a, TriangleMesh $b, ?int $samples = null): array
    {
        if ($b->faces === []) {
            throw UnsuitableInput::because('The surface to compare with has no faces.');
        }
        $points = $a instanceof PointCloud ? self::someOf($a, $samples) : self::onSurface($a, $samples ?? 50000);
        if ($points === []) {
            throw UnsuitableInput::because('There are no points to compare.');
        }
        $face = $distanceSq = [];
        TriangleBvh::of($b->positions, $b->faces)->closest($points, $face, $distanceSq);
        $distances = $signed = [];
        $sides = PseudoNormals::sides($b->positions, $b->faces, $points, $face);
        foreach ($distanceSq as $i => $d) {
            $d = sqrt($d);
            $distances[] = $d;
            $signed[] = $sides[$i] * $d;
        }
        sort($distances);
        $n = count($distances);

        return [
            'samples' => $n,
            'rms' => sqrt(array_sum(array_map(fn (float $d) => $d * $d, $distances)) / $n),
            'mean' => array_sum($distances) / $n,
            'p95' => $distances[min($n - 1, (int) floor(0.95 * $n))],
            'max' => $distances[$n - 1],
            'signedMean' => array_sum($signed) / $n,
        ];
    }

    /**
     * Points spread evenly over a mesh by area, the same for the same mesh and number.
     *
     * @return list<float> flat xyz
     */
    public static function onSurface(TriangleMesh $mesh, int $samples): array
    {
        return Sampling::evenly($mesh->positions, $mesh->faces, $samples)['points'];
    }

    /**
     * Vertices, edge middles and face centres: where two nearby surfaces are farthest apart.
     *
     * @param  array<int, int>  $faceOf  (changed) a face of each point that is no vertex, in their order
     * @return list<float> flat xyz
     */
    public static function densePoints(TriangleMesh $mesh, array &$faceOf = []): array
    {
        $faceOf = [];
        $q = $p = $mesh->positions;
        $f = $mesh->faces;
        $twin = Topology::twins($f);
        for ($t = 0, $n = count($f); $t < $n; $t += 3) {
            $i = 3 * $f[$t];
            $j = 3 * $f[$t + 1];
            $k = 3 * $f[$t + 2];
            $faceOf[] = intdiv($t, 3);
            for ($c = 0; $c < 3; $c++) {
                $q[] = ($p[$i + $c] + $p[$j + $c] + $p[$k + $c]) / 3.0;
            }
            // Each edge once: from its lower end; open ones and those of several faces from every face.
            if ($twin[$t] < 0 || $f[$t] < $f[$t + 1]) {
                $faceOf[] = intdiv($t, 3);
                $q[] = 0.5 * ($p[$i] + $p[$j]);
                $q[] = 0.5 * ($p[$i + 1] + $p[$j + 1]);
                $q[] = 0.5 * ($p[$i + 2] + $p[$j + 2]);
            }
            if ($twin[$t + 1] < 0 || $f[$t + 1] < $f[$t + 2]) {
                $faceOf[] = intdiv($t, 3);
                $q[] = 0.5 * ($p[$j] + $p[$k]);
                $q[] = 0.5 * ($p[$j + 1] + $p[$k + 1]);
                $q[] = 0.5 * ($p[$j + 2] + $p[$k + 2]);
            }
            if ($twin[$t + 2] < 0 || $f[$t + 2] < $f[$t]) {
                $faceOf[] = intdiv($t, 3);
                $q[] = 0.5 * ($p[$k] + $p[$i]);
                $q[] = 0.5 * ($p[$k + 1] + $p[$i + 1]);
                $q[] = 0.5 * ($p[$k + 2] + $p[$i + 2]);
            }
        }

        return $q;
    }

    /** @return list<float> */
    private static function someOf(PointCloud $cloud, ?int $samples): array
    {
        $n = $cloud->count();
        if ($samples === null || $samples >= $n) {
            return $cloud->positions;
        }
        $points = [];
        for ($k = 0; $k < $samples; $k++) {
            $o = 3 * intdiv($k * $n, $samples);
            array_push($points, $cloud->positions[$o], $cloud->positions[$o + 1], $cloud->positions[$o + 2]);
        }

        return $points;
    }
}
