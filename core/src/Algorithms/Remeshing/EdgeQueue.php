<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\HalfEdge\CollapsingMesh;
use Emberstone\Core\Algorithms\HalfEdge\Stars;

/**
 * The cheapest share of all edges, sorted by the quadric error at the best place for the vertex that would replace them.
 *
 * @internal
 */
final class EdgeQueue
{
    /** 22 bits of cost over 32 bits of half-edge. */
    private const LEVELS = 4194303.0;

    /** The greatest cost that fits above the half-edge. */
    private const MOST = 0x7FFFFFFF;

    /** An edge may cost this many times what one of the cheapest costs and still go in the same round. */
    private const SPREAD = 16.0;

    /** Share of a round's edges that counts as its cheapest. */
    private const CHEAP = 0.125;

    /**
     * @param  float  $share  of the edges, above 1: all
     * @param  float  $rounding  an error that rounding alone may show, mm4
     * @return list<int> the half-edge in the low 32 bits; above them what it was sorted by
     */
    public static function cheapest(CollapsingMesh $mesh, Stars $stars, float $share, float $rounding): array
    {
        $faces = $stars->faces;
        if ($share > 1.0) {
            return self::scan($mesh, $stars, INF, 1, INF, 0.0)[0];
        }
        // The cost limit comes from a sample of some 5000 faces, before all edges are looked at: none but those that go into the queue are kept.
        $sample = self::scan($mesh, $stars, INF, intdiv($faces, 5000) + 1, INF, -1.0)[1];
        if ($sample === []) {
            $sample = self::scan($mesh, $stars, INF, 1, INF, -1.0)[1];
        }
        if ($sample === []) {
            return [];
        }
        sort($sample);
        $last = count($sample) - 1;
        // Where some edges cost nothing the round takes no others: two flats and their crease would be worn down together.
        $most = max(1e-300, min($sample[(int) ($last * $share)], max($rounding, self::SPREAD * $sample[(int) ($last * $share * self::CHEAP)])));
        [$queue] = self::scan($mesh, $stars, INF, 1, $most, self::LEVELS / $most);
        sort($queue);

        return $queue;
    }

    /**
     * All edges within a limit, the cheapest first.
     *
     * @param  float  $limit  edges whose mean squared error is above this are left out, mm2
     * @param  float  $grain  errors farther apart than a millionth of this are told apart, mm4
     * @return list<int> as cheapest()
     */
    public static function within(CollapsingMesh $mesh, Stars $stars, float $limit, float $grain): array
    {
        [$queue] = self::scan($mesh, $stars, $limit, 1, INF, self::LEVELS / max(1e-300, $grain));
        sort($queue);

        return $queue;
    }

    /**
     * The edges, each with what it is sorted by, or the errors alone.
     *
     * @param  int  $every  stride: 1 looks at all faces, 5 at every fifth
     * @param  float  $most  leaves out edges that cost more
     * @param  float  $scale  from an error to the number to sort by, that goes above the half-edge; 0: only the half-edges, less: only the errors
     * @return array{list<int>, list<float>} half-edges, errors: one of the two is empty
     */
    private static function scan(CollapsingMesh $mesh, Stars $stars, float $limit, int $every, float $most, float $scale): array
    {
        [$V, $Q, $R, $states, $T] = [$mesh->vertices, $mesh->quadrics, $mesh->rests, $mesh->states, $mesh->corners];
        $edges = $errors = [];
        for ($j = 0, $e = 4 * $stars->faces, $step = 4 * $every; $j < $e; $j += $step) {
            for ($c = 0; $c < 3; $c++) {
                $a = $T[$j + $c];
                $b = $T[$c === 2 ? $j : $j + $c + 1];
                // Each edge once: from its lower end, or from its only face.
                if ((($states[$a] | $states[$b]) & CollapsingMesh::LOCKED) !== 0 || $a > $b && (($states[$a] & $states[$b] & CollapsingMesh::AT_RIM) === 0 || $stars->hold($T, $b, $a))) {
                    continue;
                }
                $i = $a << 3;
                $k = $b << 3;
                $xx = $Q[$i] + $Q[$k];
                $xy = $Q[$i + 1] + $Q[$k + 1];
                $xz = $Q[$i + 2] + $Q[$k + 2];
                $xd = $Q[$i + 3] + $Q[$k + 3];
                $yy = $Q[$i + 4] + $Q[$k + 4];
                $yz = $Q[$i + 5] + $Q[$k + 5];
                $yd = $Q[$i + 6] + $Q[$k + 6];
                $zz = $Q[$i + 7] + $Q[$k + 7];
                $zd = $R[$a << 1] + $R[$b << 1];
                $dd = $R[($a << 1) + 1] + $R[($b << 1) + 1];
                $i = $a << 2;
                $k = $b << 2;
                $x = 0.5 * ($V[$i] + $V[$k]);
                $y = 0.5 * ($V[$i + 1] + $V[$k + 1]);
                $z = 0.5 * ($V[$i + 2] + $V[$k + 2]);
                // Half the slope of the error at the middle m of the edge, g; the error falls from there by g'A^-1 g to its least value.
                $gx = $xx * $x + $xy * $y + $xz * $z + $xd;
                $gy = $xy * $x + $yy * $y + $yz * $z + $yd;
                $gz = $xz * $x + $yz * $y + $zz * $z + $zd;
                $error = $x * ($gx + $xd) + $y * ($gy + $yd) + $z * ($gz + $zd) + $dd;
                $stay = QuadricCollapse::STAY * ($xx + $yy + $zz) + 1e-90;
                $xx += $stay;
                $yy += $stay;
                $zz += $stay;
                $cxx = $yy * $zz - $yz * $yz;
                $cxy = $xz * $yz - $xy * $zz;
                $cxz = $xy * $yz - $xz * $yy;
                $error -= ($gx * ($cxx * $gx + 2.0 * ($cxy * $gy + $cxz * $gz)) + $gy * (($xx * $zz - $xz * $xz) * $gy + 2.0 * ($xy * $xz - $xx * $yz) * $gz) + $gz * ($xx * $yy - $xy * $xy) * $gz)
                    / ($xx * $cxx + $xy * $cxy + $xz * $cxz);
                if ($error <= $limit * ($V[($a << 2) + 3] + $V[($b << 2) + 3]) && $error <= $most) {
                    if ($scale < 0.0) {
                        $errors[] = $error;
                    } else {
                        $error *= $scale;
                        $edges[] = ($error > 0.0 ? ($error < self::MOST ? (int) $error : self::MOST) << 32 : 0) | ($j + $c);
                    }
                }
            }
        }

        return [$edges, $errors];
    }
}
