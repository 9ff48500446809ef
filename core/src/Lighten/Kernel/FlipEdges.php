<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Kernel;

use Emberstone\Core\Mesh\Kernel\Topology;

/**
 * Turns edges whose middle lies farther from the planes they stand for than the other diagonal's would: the collapse chooses
 * vertices well and takes the triangles between them as they come.
 *
 * The distance of a point to the planes of a vertex is its quadric (Garland & Heckbert 1997), here asked at the middle of an edge.
 *
 * @internal
 */
final class FlipEdges
{
    /** Faces that would turn by more than this (cosine) stay. */
    private const TURN = 0.5;

    /** The other diagonal must miss by less than this share: flips that gain little spoil more around them than they mend. */
    private const WORTH = 0.7;

    /**
     * @param  array<int, int>  $F  (changed) flat faces
     * @param  array<int, int>  $origin  a face; edges between measured and filled stay
     */
    public static function run(CollapsingMesh $mesh, array &$F, array $origin): void
    {
        [$V, $Q, $R] = [$mesh->vertices, $mesh->quadrics, $mesh->rests];
        $twin = Topology::twins($F);
        $linked = [];
        for ($h = 0, $n = count($F); $h < $n; $h++) {
            $a = $F[$h];
            $b = $F[$h % 3 === 2 ? $h - 2 : $h + 1];
            $linked[$a < $b ? $a << 32 | $b : $b << 32 | $a] = true;
        }
        $touched = array_fill(0, intdiv($n, 3), 0);
        for ($h = 0; $h < $n; $h++) {
            $g = $twin[$h];
            if ($g <= $h) {
                continue;
            }
            $s = intdiv($h, 3);
            $t = intdiv($g, 3);
            if ($touched[$s] !== 0 || $touched[$t] !== 0 || $origin[$s] !== $origin[$t]) {
                continue;
            }
            $a = $F[$h];
            $b = $F[$g];
            $c = $F[$h % 3 === 0 ? $h + 2 : $h - 1];
            $d = $F[$g % 3 === 0 ? $g + 2 : $g - 1];
            if ($c === $d || isset($linked[$c < $d ? $c << 32 | $d : $d << 32 | $c])
                || self::miss($V, $Q, $R, $c, $d) >= self::WORTH * self::miss($V, $Q, $R, $a, $b) || ! self::standsWell($V, $a, $b, $c, $d)) {
                continue;
            }
            // From abc and bad to adc and dbc.
            $F[3 * $s] = $a;
            $F[3 * $s + 1] = $d;
            $F[3 * $s + 2] = $c;
            $F[3 * $t] = $d;
            $F[3 * $t + 1] = $b;
            $F[3 * $t + 2] = $c;
            $linked[$c < $d ? $c << 32 | $d : $d << 32 | $c] = true;
            // Their other edges have new twins: left alone.
            $touched[$s] = $touched[$t] = 1;
            foreach ([3 * $s, 3 * $s + 1, 3 * $s + 2, 3 * $t, 3 * $t + 1, 3 * $t + 2] as $k) {
                if ($twin[$k] >= 0) {
                    $touched[intdiv($twin[$k], 3)] = 1;
                }
            }
        }
    }

    /**
     * Mean squared distance of the middle of an edge to the planes of both ends.
     *
     * @param  array<int, float>  $V
     * @param  array<int, float>  $Q
     * @param  array<int, float>  $R
     */
    private static function miss(array $V, array $Q, array $R, int $a, int $b): float
    {
        $x = 0.5 * ($V[4 * $a] + $V[4 * $b]);
        $y = 0.5 * ($V[4 * $a + 1] + $V[4 * $b + 1]);
        $z = 0.5 * ($V[4 * $a + 2] + $V[4 * $b + 2]);
        $i = 8 * $a;
        $j = 8 * $b;
        $xx = $Q[$i] + $Q[$j];
        $xy = $Q[$i + 1] + $Q[$j + 1];
        $xz = $Q[$i + 2] + $Q[$j + 2];
        $x1 = $Q[$i + 3] + $Q[$j + 3];
        $yy = $Q[$i + 4] + $Q[$j + 4];
        $yz = $Q[$i + 5] + $Q[$j + 5];
        $y1 = $Q[$i + 6] + $Q[$j + 6];
        $zz = $Q[$i + 7] + $Q[$j + 7];
        $z1 = $R[2 * $a] + $R[2 * $b];
        $e = $x * ($xx * $x + 2.0 * ($xy * $y + $xz * $z + $x1)) + $y * ($yy * $y + 2.0 * ($yz * $z + $y1)) + $z * ($zz * $z + 2.0 * $z1) + $R[2 * $a + 1] + $R[2 * $b + 1];

        return $e / max(1e-300, $V[4 * $a + 3] + $V[4 * $b + 3]);
    }

    /**
     * Do the turned faces adc and dbc look where abc and bad look, with no sliver among them?
     *
     * @param  array<int, float>  $V
     */
    private static function standsWell(array $V, int $a, int $b, int $c, int $d): bool
    {
        $old = self::cross($V, $a, $b, $c);
        $more = self::cross($V, $b, $a, $d);
        $x = $old[0] + $more[0];
        $y = $old[1] + $more[1];
        $z = $old[2] + $more[2];
        $l = sqrt($x * $x + $y * $y + $z * $z);
        foreach ([self::cross($V, $a, $d, $c), self::cross($V, $d, $b, $c)] as [$u, $v, $w]) {
            $m = sqrt($u * $u + $v * $v + $w * $w);
            if ($m < 0.2 * $l || $u * $x + $v * $y + $w * $z < self::TURN * $m * $l) {
                return false;
            }
        }

        return true;
    }

    /**
     * @param  array<int, float>  $V
     * @return array{float, float, float}
     */
    private static function cross(array $V, int $a, int $b, int $c): array
    {
        $a *= 4;
        $b *= 4;
        $c *= 4;
        $ux = $V[$b] - $V[$a];
        $uy = $V[$b + 1] - $V[$a + 1];
        $uz = $V[$b + 2] - $V[$a + 2];
        $vx = $V[$c] - $V[$a];
        $vy = $V[$c + 1] - $V[$a + 1];
        $vz = $V[$c + 2] - $V[$a + 2];

        return [$uy * $vz - $uz * $vy, $uz * $vx - $ux * $vz, $ux * $vy - $uy * $vx];
    }
}
