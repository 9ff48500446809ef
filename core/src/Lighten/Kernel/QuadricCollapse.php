<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Kernel;

/**
 * Edge collapse in order of quadric error, in sorted rounds in place of a heap.
 *
 * Source    Garland & Heckbert 1997, "Surface Simplification Using Quadric Error Metrics". A round collapses the cheapest share
 *           of all edges, sorted, each vertex at most once; then costs are computed anew.
 * Departs   quadrics weighted by area; open edges get a plane square to their face; nearly singular systems and optima farther
 *           from the edge than its length fall back to the middle of the edge; edges are flipped at the end (FlipEdges).
 * Input     manifold; vertices of a non-manifold edge count as boundary.
 * Keeps     genus and pieces (link condition), orientation (a face may not turn by 78 degrees or more).
 * Cost      about 5 microseconds a face removed, 400 bytes a vertex. Deterministic.
 *
 * @internal
 */
final class QuadricCollapse
{
    /** A system whose determinant is below this share of its trace cubed says nothing about one direction. */
    public const SINGULAR = 1e-11;

    /** Squared cosine of the most a face may turn. */
    private const TURN_SQ = 0.04;

    /** After so many rounds every edge that may go is tried, in the order of the faces. */
    private const SORTED_ROUNDS = 40;

    /**
     * @param  array<int, float>  $P  flat xyz, best around the origin (the quadrics lose digits far from it)
     * @param  array<int, int>  $F  flat faces
     * @param  array<int, int>  $S  support a vertex, or empty; the lower of two survives
     * @param  array<int, int>  $origin  a face, or empty
     * @param  float  $limit  no collapse whose mean squared distance to its planes is above this, mm2
     * @param  callable(float): void  $tell  told the share done after each round; may throw to stop
     * @param  float  $share  of the edges that a round may take
     * @return array{positions: list<float>, faces: list<int>, support: list<int>, origin: list<int>}
     */
    public static function run(array $P, array $F, array $S, array $origin, int $target, float $limit, float $boundaryWeight, callable $tell, float $share = 0.25): array
    {
        $faces = $start = intdiv(count($F), 3);
        $T = self::strideFour($F, $origin);
        [$F, $origin] = [[], []];
        $vertices = intdiv(count($P), 3);
        $S = $S === [] ? array_fill(0, $vertices, 0) : $S;
        [$Q, $A] = Quadrics::ofFaces($P, $T);
        $atRim = [];
        for ($round = 1; $faces > $target; $round++) {
            $stars = Stars::of($T, $vertices, $faces);
            if ($round === 1) {
                $atRim = $stars->atRim($T);
                Quadrics::holdRims($Q, $P, $T, $stars, $atRim, $boundaryWeight);
            }
            $queue = EdgeQueue::cheapest($P, $Q, $A, $T, $stars, $atRim, $limit, $round > self::SORTED_ROUNDS ? INF : $share);
            if ($queue === []) {
                break;
            }
            $gone = self::collapse($P, $Q, $A, $S, $T, $atRim, $stars, $queue, $faces - $target);
            $queue = $stars = null;
            [$vertices, $left] = self::compact($P, $Q, $A, $S, $T, $atRim, $gone, $faces);
            $none = $left === $faces;
            $faces = $left;
            $tell(min(1.0, ($start - $faces) / max(1, $start - $target)));
            if ($none) {
                if ($share >= 1.0) {
                    break;
                }
                $share = min(1.0, $share * 2.0);
            }
        }
        for ($j = 0, $e = 4 * $faces; $j < $e; $j += 4) {
            $F[] = $T[$j];
            $F[] = $T[$j + 1];
            $F[] = $T[$j + 2];
            $origin[] = $T[$j + 3] - 1;
        }
        $P = array_slice($P, 0, 3 * $vertices);
        $S = array_slice($S, 0, $vertices);
        FlipEdges::run($P, $Q, $A, $F, $origin);

        return ['positions' => $P, 'faces' => $F, 'support' => $S, 'origin' => $origin];
    }

    /**
     * Three corners and a flag a face: 0 dead, else 1 + origin.
     *
     * @param  array<int, int>  $F
     * @param  array<int, int>  $origin
     * @return array<int, int>
     */
    private static function strideFour(array $F, array $origin): array
    {
        $T = array_fill(0, intdiv(count($F), 3) * 4, 1);
        for ($f = 0, $i = 0, $j = 0, $n = intdiv(count($F), 3); $f < $n; $f++, $i += 3, $j += 4) {
            $T[$j] = $F[$i];
            $T[$j + 1] = $F[$i + 1];
            $T[$j + 2] = $F[$i + 2];
            if ($origin !== []) {
                $T[$j + 3] = 1 + $origin[$f];
            }
        }

        return $T;
    }

    /**
     * One round; the lower vertex of an edge takes the place of both.
     *
     * @param  array<int, float>  $positions  (changed)
     * @param  array<int, float>  $quadrics  (changed)
     * @param  array<int, float>  $areas  (changed)
     * @param  array<int, int>  $support  (changed)
     * @param  array<int, int>  $corners  (changed) faces of stride four
     * @param  array<int, int>  $rim  (changed)
     * @param  list<int>  $queue  see EdgeQueue
     * @param  int  $remove  faces to take away at most, one more where an edge has two
     * @return array<int, int> a vertex: 2 for those that are gone
     */
    private static function collapse(array &$positions, array &$quadrics, array &$areas, array &$support, array &$corners, array &$rim, Stars $stars, array $queue, int $remove): array
    {
        // Arrays behind a reference are slow to write to; they live in locals for the length of the round.
        [$P, $Q, $A, $S, $T, $atRim] = [$positions, $quadrics, $areas, $support, $corners, $rim];
        $positions = $quadrics = $areas = $support = $corners = $rim = [];
        $st = $stars->start;
        $H = $stars->halfEdges;
        $busy = array_fill(0, count($st) - 1, 0);
        $mark = array_fill(0, count($st) - 1, -2);
        for ($n = 0, $m = count($queue); $n < $m && $remove > 0; $n++) {
            $h = $queue[$n] & 0xFFFFFFFF;
            $a = $T[$h];
            $b = $T[($h & 3) === 2 ? $h - 2 : $h + 1];
            if ($busy[$a] !== 0 || $busy[$b] !== 0 || $T[$h | 3] === 0) {
                continue;
            }
            $aFrom = $st[$a];
            $aTo = $st[$a + 1];
            $bFrom = $st[$b];
            $bTo = $st[$b + 1];

            // Link condition: what both ends know must be the corners across the edge, and nothing else.
            $once = 2 * $n;
            $twice = $once + 1;
            for ($i = $aFrom; $i < $aTo; $i++) {
                $h = $H[$i];
                if ($T[$h | 3] !== 0) {
                    $mark[$T[($h & 3) === 2 ? $h - 2 : $h + 1]] = $once;
                    $mark[$T[($h & 3) === 0 ? $h + 2 : $h - 1]] = $once;
                }
            }
            $shared = $faces = 0;
            for ($i = $bFrom; $i < $bTo; $i++) {
                $h = $H[$i];
                if ($T[$h | 3] === 0) {
                    continue;
                }
                $v = $T[($h & 3) === 2 ? $h - 2 : $h + 1];
                $w = $T[($h & 3) === 0 ? $h + 2 : $h - 1];
                if ($mark[$v] === $once) {
                    $mark[$v] = $twice;
                    $shared++;
                }
                if ($mark[$w] === $once) {
                    $mark[$w] = $twice;
                    $shared++;
                }
                if ($v === $a || $w === $a) {
                    $faces++;
                }
            }
            $rims = $atRim[$a] + $atRim[$b];
            if ($shared !== $faces || $faces < 1 || $faces > 2 || ($faces === 2 && $rims === 2) || ($faces === 1 && $rims < 2)) {
                continue;
            }

            $i = 10 * $a;
            $k = 10 * $b;
            $xx = $Q[$i] + $Q[$k];
            $xy = $Q[$i + 1] + $Q[$k + 1];
            $xz = $Q[$i + 2] + $Q[$k + 2];
            $xd = $Q[$i + 3] + $Q[$k + 3];
            $yy = $Q[$i + 4] + $Q[$k + 4];
            $yz = $Q[$i + 5] + $Q[$k + 5];
            $yd = $Q[$i + 6] + $Q[$k + 6];
            $zz = $Q[$i + 7] + $Q[$k + 7];
            $zd = $Q[$i + 8] + $Q[$k + 8];
            $i = 3 * $a;
            $k = 3 * $b;
            $ux = $P[$k] - $P[$i];
            $uy = $P[$k + 1] - $P[$i + 1];
            $uz = $P[$k + 2] - $P[$i + 2];
            $x = $mx = $P[$i] + 0.5 * $ux;
            $y = $my = $P[$i + 1] + 0.5 * $uy;
            $z = $mz = $P[$i + 2] + 0.5 * $uz;
            $cxx = $yy * $zz - $yz * $yz;
            $cxy = $xz * $yz - $xy * $zz;
            $cxz = $xy * $yz - $xz * $yy;
            $det = $xx * $cxx + $xy * $cxy + $xz * $cxz;
            $trace = $xx + $yy + $zz;
            if ($det > self::SINGULAR * $trace * $trace * $trace) {
                $q = -1.0 / $det;
                $cyz = $xy * $xz - $xx * $yz;
                $x = $q * ($cxx * $xd + $cxy * $yd + $cxz * $zd);
                $y = $q * ($cxy * $xd + ($xx * $zz - $xz * $xz) * $yd + $cyz * $zd);
                $z = $q * ($cxz * $xd + $cyz * $yd + ($xx * $yy - $xy * $xy) * $zd);
                // An optimum far from its edge comes from a nearly singular system.
                if (($x - $mx) * ($x - $mx) + ($y - $my) * ($y - $my) + ($z - $mz) * ($z - $mz) > $ux * $ux + $uy * $uy + $uz * $uz) {
                    $x = $mx;
                    $y = $my;
                    $z = $mz;
                }
            }
            if (self::turnsAFace($P, $T, $H, $aFrom, $aTo, $a, $b, $x, $y, $z) || self::turnsAFace($P, $T, $H, $bFrom, $bTo, $b, $a, $x, $y, $z)) {
                continue;
            }

            for ($i = $aFrom; $i < $aTo; $i++) {
                $h = $H[$i];
                if (($T[($h & 3) === 2 ? $h - 2 : $h + 1] === $b || $T[($h & 3) === 0 ? $h + 2 : $h - 1] === $b) && $T[$h | 3] !== 0) {
                    $T[$h | 3] = 0;
                    $remove--;
                }
            }
            for ($i = $bFrom; $i < $bTo; $i++) {
                $T[$H[$i]] = $a;
            }
            $i = 3 * $a;
            $P[$i] = $x;
            $P[$i + 1] = $y;
            $P[$i + 2] = $z;
            $i = 10 * $a;
            $Q[$i] = $xx;
            $Q[$i + 1] = $xy;
            $Q[$i + 2] = $xz;
            $Q[$i + 3] = $xd;
            $Q[$i + 4] = $yy;
            $Q[$i + 5] = $yz;
            $Q[$i + 6] = $yd;
            $Q[$i + 7] = $zz;
            $Q[$i + 8] = $zd;
            $Q[$i + 9] += $Q[10 * $b + 9];
            $A[$a] += $A[$b];
            $atRim[$a] |= $atRim[$b];
            if ($S[$b] < $S[$a]) {
                $S[$a] = $S[$b];
            }
            $busy[$a] = 1;
            $busy[$b] = 2;
        }
        [$positions, $quadrics, $areas, $support, $corners, $rim] = [$P, $Q, $A, $S, $T, $atRim];

        return $busy;
    }

    /**
     * Would a face around $v that does not hold $other turn too far if $v went to x, y, z?
     *
     * @param  array<int, float>  $P
     * @param  array<int, int>  $T
     * @param  array<int, int>  $H
     */
    private static function turnsAFace(array $P, array $T, array $H, int $from, int $to, int $v, int $other, float $x, float $y, float $z): bool
    {
        $v *= 3;
        $px = $P[$v];
        $py = $P[$v + 1];
        $pz = $P[$v + 2];
        for ($i = $from; $i < $to; $i++) {
            $h = $H[$i];
            if ($T[$h | 3] === 0) {
                continue;
            }
            $j = $T[($h & 3) === 2 ? $h - 2 : $h + 1];
            $k = $T[($h & 3) === 0 ? $h + 2 : $h - 1];
            if ($j === $other || $k === $other) {
                continue;
            }
            $j *= 3;
            $k *= 3;
            $jx = $P[$j];
            $jy = $P[$j + 1];
            $jz = $P[$j + 2];
            $ex = $P[$k] - $jx;
            $ey = $P[$k + 1] - $jy;
            $ez = $P[$k + 2] - $jz;
            $ux = $px - $jx;
            $uy = $py - $jy;
            $uz = $pz - $jz;
            $wx = $x - $jx;
            $wy = $y - $jy;
            $wz = $z - $jz;
            // Normals before and after.
            $nx = $ey * $uz - $ez * $uy;
            $ny = $ez * $ux - $ex * $uz;
            $nz = $ex * $uy - $ey * $ux;
            $ox = $ey * $wz - $ez * $wy;
            $oy = $ez * $wx - $ex * $wz;
            $oz = $ex * $wy - $ey * $wx;
            $dot = $nx * $ox + $ny * $oy + $nz * $oz;
            if ($dot <= 0.0 || $dot * $dot < self::TURN_SQ * ($ox * $ox + $oy * $oy + $oz * $oz) * ($nx * $nx + $ny * $ny + $nz * $nz)) {
                return true;
            }
        }

        return false;
    }

    /**
     * Closes the gaps that a round left in the lists. What stands behind the last one stays until half of a list is waste: to cut it off is to copy the rest.
     *
     * @param  array<int, float>  $positions  (changed)
     * @param  array<int, float>  $quadrics  (changed)
     * @param  array<int, float>  $areas  (changed)
     * @param  array<int, int>  $support  (changed)
     * @param  array<int, int>  $corners  (changed)
     * @param  array<int, int>  $rim  (changed)
     * @param  array<int, int>  $gone  a vertex: 2 for those that are gone
     * @return array{int, int} vertices and faces that are left
     */
    private static function compact(array &$positions, array &$quadrics, array &$areas, array &$support, array &$corners, array &$rim, array $gone, int $faces): array
    {
        [$P, $Q, $A, $S, $T, $atRim] = [$positions, $quadrics, $areas, $support, $corners, $rim];
        $positions = $quadrics = $areas = $support = $corners = $rim = [];
        $map = array_fill(0, count($gone), 0);
        $k = 0;
        for ($v = 0, $n = count($gone); $v < $n; $v++) {
            if ($gone[$v] === 2) {
                continue;
            }
            $map[$v] = $k;
            if ($k !== $v) {
                // Written out: a loop here costs a twentieth of the whole.
                $i = 3 * $v;
                $o = 3 * $k;
                $P[$o] = $P[$i];
                $P[$o + 1] = $P[$i + 1];
                $P[$o + 2] = $P[$i + 2];
                $i = 10 * $v;
                $o = 10 * $k;
                $Q[$o] = $Q[$i];
                $Q[$o + 1] = $Q[$i + 1];
                $Q[$o + 2] = $Q[$i + 2];
                $Q[$o + 3] = $Q[$i + 3];
                $Q[$o + 4] = $Q[$i + 4];
                $Q[$o + 5] = $Q[$i + 5];
                $Q[$o + 6] = $Q[$i + 6];
                $Q[$o + 7] = $Q[$i + 7];
                $Q[$o + 8] = $Q[$i + 8];
                $Q[$o + 9] = $Q[$i + 9];
                $A[$k] = $A[$v];
                $S[$k] = $S[$v];
                $atRim[$k] = $atRim[$v];
            }
            $k++;
        }
        $f = 0;
        for ($j = 0, $e = 4 * $faces; $j < $e; $j += 4) {
            if ($T[$j + 3] !== 0) {
                $T[$f] = $map[$T[$j]];
                $T[$f + 1] = $map[$T[$j + 1]];
                $T[$f + 2] = $map[$T[$j + 2]];
                $T[$f + 3] = $T[$j + 3];
                $f += 4;
            }
        }
        $map = $gone = [];
        if (2 * $k > count($A)) {
            [$positions, $quadrics, $areas, $support, $corners, $rim] = [$P, $Q, $A, $S, $T, $atRim];
        } else {
            // One after the other: the old list goes before the next one is copied.
            $quadrics = array_slice($Q, 0, 10 * $k);
            $Q = [];
            $corners = array_slice($T, 0, $f);
            $T = [];
            $positions = array_slice($P, 0, 3 * $k);
            $areas = array_slice($A, 0, $k);
            $support = array_slice($S, 0, $k);
            $rim = array_slice($atRim, 0, $k);
        }

        return [$k, intdiv($f, 4)];
    }
}
