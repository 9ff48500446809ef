<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Kernel;

use Emberstone\Core\Mesh\Kernel\Evidence;

/**
 * Edge collapse in order of quadric error, in sorted rounds in place of a heap.
 *
 * Source    Garland & Heckbert 1997, "Surface Simplification Using Quadric Error Metrics". A round collapses the cheapest share
 *           of all edges, sorted, each vertex at most once; then costs are computed anew.
 * Departs   quadrics weighted by area; open edges get a plane square to their face; nearly singular systems and optima farther
 *           from the edge than its length fall back to the middle of the edge; edges are flipped at the end (FlipEdges).
 * Input     manifold; vertices of a non-manifold edge count as boundary.
 * Keeps     genus and pieces (link condition), orientation (a face may not turn by 78 degrees or more).
 * Cost      about 5 microseconds a face removed, 600 bytes a vertex. Deterministic.
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
     * @param  array<int, float>  $P  flat xyz
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
        $mesh = new CollapsingMesh($P, $F, $S, $origin);
        [$P, $F, $S, $origin] = [[], [], [], []];
        $start = $mesh->faceCount;
        Quadrics::ofFaces($mesh);
        for ($round = 1; $mesh->faceCount > $target; $round++) {
            $stars = Stars::of($mesh->corners, $mesh->vertexCount, $mesh->faceCount);
            if ($round === 1) {
                $mesh->markRims($stars);
                Quadrics::holdRims($mesh, $stars, $boundaryWeight);
            }
            $queue = EdgeQueue::cheapest($mesh, $stars, $limit, $round > self::SORTED_ROUNDS ? INF : $share);
            if ($queue === []) {
                break;
            }
            self::collapse($mesh, $stars, $queue, $mesh->faceCount - $target);
            $queue = $stars = null;
            $went = $mesh->compact();
            $tell(min(1.0, ($start - $mesh->faceCount) / max(1, $start - $target)));
            if ($went === 0) {
                if ($share >= 1.0) {
                    break;
                }
                $share = min(1.0, $share * 2.0);
            }
        }
        [$F, $origin] = $mesh->faces();
        FlipEdges::run($mesh, $F, $origin);

        return ['positions' => $mesh->positions(), 'faces' => $F, 'support' => $mesh->support(), 'origin' => $origin];
    }

    /**
     * One round; the lower vertex of an edge takes the place of both.
     *
     * @param  list<int>  $queue  see EdgeQueue
     * @param  int  $remove  faces to take away at most, one more where an edge has two
     */
    private static function collapse(CollapsingMesh $mesh, Stars $stars, array $queue, int $remove): void
    {
        // Arrays behind a property are slow to write to; they live in locals for the length of the round.
        [$V, $Q, $R, $states, $T] = [$mesh->vertices, $mesh->quadrics, $mesh->rests, $mesh->states, $mesh->corners];
        $mesh->vertices = $mesh->quadrics = $mesh->rests = $mesh->states = $mesh->corners = [];
        $st = $stars->start;
        $H = $stars->halfEdges;
        $mark = array_fill(0, count($st) - 1, -2);
        $taken = CollapsingMesh::BUSY | CollapsingMesh::GONE;
        for ($n = 0, $m = count($queue); $n < $m && $remove > 0; $n++) {
            $h = $queue[$n] & 0xFFFFFFFF;
            $a = $T[$h];
            $b = $T[($h & 3) === 2 ? $h - 2 : $h + 1];
            if ((($states[$a] | $states[$b]) & $taken) !== 0 || $T[$h | 3] === 0) {
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
            $rims = ($states[$a] & CollapsingMesh::AT_RIM) + ($states[$b] & CollapsingMesh::AT_RIM);
            if ($shared !== $faces || $faces < 1 || $faces > 2 || ($faces === 2 && $rims === 2) || ($faces === 1 && $rims < 2)) {
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
            $i = $a << 2;
            $k = $b << 2;
            $ux = $V[$k] - $V[$i];
            $uy = $V[$k + 1] - $V[$i + 1];
            $uz = $V[$k + 2] - $V[$i + 2];
            $x = $mx = $V[$i] + 0.5 * $ux;
            $y = $my = $V[$i + 1] + 0.5 * $uy;
            $z = $mz = $V[$i + 2] + 0.5 * $uz;
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
            if (self::turnsAFace($V, $T, $H, $aFrom, $aTo, $a, $b, $x, $y, $z) || self::turnsAFace($V, $T, $H, $bFrom, $bTo, $b, $a, $x, $y, $z)) {
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
            $i = $a << 2;
            $V[$i] = $x;
            $V[$i + 1] = $y;
            $V[$i + 2] = $z;
            $V[$i + 3] += $V[($b << 2) + 3];
            $i = $a << 3;
            $Q[$i] = $xx;
            $Q[$i + 1] = $xy;
            $Q[$i + 2] = $xz;
            $Q[$i + 3] = $xd;
            $Q[$i + 4] = $yy;
            $Q[$i + 5] = $yz;
            $Q[$i + 6] = $yd;
            $Q[$i + 7] = $zz;
            $R[$a << 1] = $zd;
            $R[($a << 1) + 1] += $R[($b << 1) + 1];
            $states[$a] = self::merged($states[$a], $states[$b]);
            $states[$b] |= CollapsingMesh::GONE;
        }
        [$mesh->vertices, $mesh->quadrics, $mesh->rests, $mesh->states, $mesh->corners] = [$V, $Q, $R, $states, $T];
    }

    /** State of a vertex that takes the place of two: at a rim if either is, the support of the one that fewer passes saw. */
    private static function merged(int $a, int $b): int
    {
        $support = $a >> CollapsingMesh::SUPPORT_SHIFT;
        $other = $b >> CollapsingMesh::SUPPORT_SHIFT;

        return (Evidence::passes($other) < Evidence::passes($support) ? $other : $support) << CollapsingMesh::SUPPORT_SHIFT | ($a | $b) & CollapsingMesh::AT_RIM | CollapsingMesh::BUSY;
    }

    /**
     * Would a face around $v that does not hold $other turn too far if $v went to x, y, z?
     *
     * @param  array<int, float>  $V
     * @param  array<int, int>  $T
     * @param  array<int, int>  $H
     */
    private static function turnsAFace(array $V, array $T, array $H, int $from, int $to, int $v, int $other, float $x, float $y, float $z): bool
    {
        $v <<= 2;
        $px = $V[$v];
        $py = $V[$v + 1];
        $pz = $V[$v + 2];
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
            $j <<= 2;
            $k <<= 2;
            $jx = $V[$j];
            $jy = $V[$j + 1];
            $jz = $V[$j + 2];
            $ex = $V[$k] - $jx;
            $ey = $V[$k + 1] - $jy;
            $ez = $V[$k + 2] - $jz;
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
}
