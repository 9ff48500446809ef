<?php

declare(strict_types=1);

namespace Emberstone\Core\Rims;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Mesh\TriangleMesh;
use LogicException;

/** Covers what was taken away beside open holes so that their rims run on where they did: no hole is closed that was only touched. */
final class RimsHeld
{
    /**
     * @param  list<int>  $keep  the faces that stay
     * @return TriangleMesh these faces, vertices that none of them uses still there, and new surface, marked as filled, wherever the way around what went ran along a rim
     */
    public static function covered(TriangleMesh $mesh, array $keep, PatchShape $shape): TriangleMesh
    {
        $twin = Topology::twins($mesh->faces);
        $stays = self::stays($mesh, $twin, $keep);
        $faces = $origin = [];
        foreach (array_keys(array_filter($stays)) as $t) {
            array_push($faces, $mesh->faces[3 * $t], $mesh->faces[3 * $t + 1], $mesh->faces[3 * $t + 2]);
            $origin[] = $mesh->origin[$t] ?? TriangleMesh::MEASURED;
        }
        $left = CutAndRefill::apart(TriangleMesh::fromFlat($mesh->positions, $faces, $mesh->support, $origin));
        $onward = self::onward($mesh, $twin, $stays);
        $gone = self::gone($mesh, $twin, $stays);
        $runs = [];
        foreach (Topology::rims($mesh->faces, $twin) as $rim) {
            foreach (self::runs($rim, $gone) as $run) {
                $runs[end($run)] = $run;
            }
        }
        while ($runs !== []) {
            $ring = self::ring($runs, $onward);
            if (count($ring) > 2) {
                $left = (new RimFiller)->cover($left, $ring, [], $shape, TriangleMesh::FILLED, new NoProgress)->mesh;
            }
        }

        return $left;
    }

    /**
     * One way around what went: along new edges, and backwards along the stretches of rims, from the first of these on.
     *
     * @param  array<int, non-empty-list<int>>  $runs  (changed) at least one, by their last vertex; those gone along are taken out
     * @param  array<int, int>  $onward
     * @return list<int> none when the way does not come back
     */
    private static function ring(array &$runs, array $onward): array
    {
        $v = $start = $runs[array_key_first($runs) ?? throw new LogicException('No stretch is left.')][0];
        $ring = [];
        $steps = count($onward);
        do {
            $ring[] = $v;
            if (isset($runs[$v])) {
                foreach (array_reverse(array_slice($runs[$v], 1, -1)) as $between) {
                    $ring[] = $between;
                }
                [$from, $v] = [$v, $runs[$v][0]];
                unset($runs[$from]);
            } elseif (isset($onward[$v]) && $steps-- > 0) {
                $v = $onward[$v];
            } else {
                unset($runs[array_key_first($runs)]);

                return [];
            }
        } while ($v !== $start);

        return $ring;
    }

    /**
     * Which faces stay: those that touch a rim where something went go as well, or the rim would open into what went through a single vertex.
     *
     * @param  array<int, int>  $twin
     * @param  list<int>  $keep
     * @return list<bool> a face
     */
    private static function stays(TriangleMesh $mesh, array $twin, array $keep): array
    {
        $stays = array_fill(0, $mesh->faceCount(), false);
        foreach ($keep as $t) {
            $stays[$t] = true;
        }
        $rim = $touched = [];
        foreach ($twin as $h => $g) {
            if ($g < 0) {
                $rim[$mesh->faces[$h]] = $rim[$mesh->faces[$h % 3 === 2 ? $h - 2 : $h + 1]] = true;
            }
        }
        foreach ($mesh->faces as $h => $v) {
            if (isset($rim[$v]) && ! $stays[intdiv($h, 3)]) {
                $touched[$v] = true;
            }
        }
        foreach ($mesh->faces as $h => $v) {
            if (isset($touched[$v])) {
                $stays[intdiv($h, 3)] = false;
            }
        }

        return $stays;
    }

    /**
     * The rim edges whose face is not there any more, by from << 32 | to.
     *
     * @param  array<int, int>  $twin
     * @param  array<int, bool>  $stays  a face
     * @return array<int, true>
     */
    private static function gone(TriangleMesh $mesh, array $twin, array $stays): array
    {
        $gone = [];
        foreach ($twin as $h => $g) {
            if ($g < 0 && ! $stays[intdiv($h, 3)]) {
                $gone[$mesh->faces[$h] << 32 | $mesh->faces[$h % 3 === 2 ? $h - 2 : $h + 1]] = true;
            }
        }

        return $gone;
    }

    /**
     * Where the edges lead that lie open only since what went is gone; vertices with two such ways are left out.
     *
     * @param  array<int, int>  $twin
     * @param  array<int, bool>  $stays
     * @return array<int, int> by vertex
     */
    private static function onward(TriangleMesh $mesh, array $twin, array $stays): array
    {
        $onward = $twice = [];
        foreach ($twin as $h => $g) {
            if ($g >= 0 && $stays[intdiv($h, 3)] && ! $stays[intdiv($g, 3)]) {
                $v = $mesh->faces[$h];
                $twice[$v] = isset($onward[$v]);
                $onward[$v] = $mesh->faces[$h % 3 === 2 ? $h - 2 : $h + 1];
            }
        }

        return array_diff_key($onward, array_filter($twice));
    }

    /**
     * The stretches of a rim that went; none when all of it did.
     *
     * @param  list<int>  $rim
     * @param  array<int, true>  $gone
     * @return list<non-empty-list<int>> vertices, both ends included
     */
    private static function runs(array $rim, array $gone): array
    {
        $n = count($rim);
        $start = null;
        for ($k = 0; $k < $n && $start === null; $k++) {
            $start = isset($gone[$rim[$k] << 32 | $rim[($k + 1) % $n]]) ? null : $k + 1;
        }
        $runs = [];
        $run = [];
        for ($i = 0; $start !== null && $i < $n; $i++) {
            [$v, $w] = [$rim[($start + $i) % $n], $rim[($start + $i + 1) % $n]];
            if (isset($gone[$v << 32 | $w])) {
                $run = $run === [] ? [$v, $w] : [...$run, $w];
            } elseif ($run !== []) {
                $runs[] = $run;
                $run = [];
            }
        }

        return $run === [] ? $runs : [...$runs, $run];
    }
}
