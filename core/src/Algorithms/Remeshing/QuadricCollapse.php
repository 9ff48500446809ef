<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\HalfEdge\CollapsingMesh;
use Emberstone\Core\Algorithms\HalfEdge\Quadrics;
use Emberstone\Core\Algorithms\HalfEdge\Stars;
use Emberstone\Core\Algorithms\Surface\Evidence;

/**
 * Edge collapse in order of quadric error, in sorted rounds in place of a heap.
 *
 * Source    Garland & Heckbert 1997, "Surface Simplification Using Quadric Error Metrics"; quadrics of the faces as they are, without memory of those that went, as in Lindstrom & Turk
 *           1998, "Fast and Memory Efficient Polygonal Simplification": RMS distance 0.8 of what quadrics that are summed up give.
 * Departs   a round collapses the cheapest edges in order, each vertex at most once; then quadrics and costs are computed anew. Quadrics are weighted by area; open edges get a plane
 *           square to their face. Where planes leave a direction open the new vertex stays at the middle of the edge along it; optima farther from there than the edge is long are
 *           not taken.
 * Input     manifold; vertices of a non-manifold edge count as boundary.
 * Keeps     genus and pieces (link condition), orientation (a face may not turn by 78 degrees or more).
 * Cost      about 5 microseconds a face removed, 600 bytes a vertex. Deterministic.
 *
 * @internal
 */
final class QuadricCollapse
{
    /**
     * Weight that draws a new vertex to the middle of its edge, as a share of the quadric's trace: it decides where planes do not, and moves an optimum by a millionth.
     * From 1e-4 on creases wander; below 1e-8 rounding shows in flats.
     */
    public const STAY = 1e-6;

    /** Rounding of an error, relative to the square of the mesh's half size times a face's area. Flats of 40 to 120 mm show 0.1 to 0.6 of it. */
    private const ROUNDING = 1e-15;

    /** Share of the edges that a round may take, cheapest first. A smaller one comes no nearer to the surface. */
    private const SHARE = 0.3;

    /** The same while the mesh has more than FAR times the faces that it will have: a tenth of the time for 2 % of the RMS distance. */
    private const HASTY_SHARE = 0.8;

    private const FAR = 3.0;

    /** Within a limit, collapses begin at this many quarterings of it and go on for some rounds at each. The same for all of the mesh: what is locked in one place changes nothing far away. */
    private const LEVELS = 7;

    private const ROUNDS_A_LEVEL = 3;

    /** Squared cosine of the most a face may turn. */
    private const TURN_SQ = 0.04;

    /** After this number of rounds every edge that may go is tried, in the order of the faces. */
    private const SORTED_ROUNDS = 40;

    /**
     * @param  array<int, float>  $P  flat xyz
     * @param  array<int, int>  $F  flat faces
     * @param  array<int, int>  $S  support a vertex, or empty; the lower of two survives
     * @param  array<int, int>  $origin  a face, or empty
     * @param  float  $limit  no collapse whose mean squared distance to its planes is above this, mm2; INF: down to the target
     * @param  callable(float): void  $tell  told the share done after each round; may throw to stop
     * @param  array<int, int>  $locked  vertices that stay where they are
     * @param  array<int, int>  $weighted  faces whose errors count by the weight
     * @param  ProgressiveMesh|null  $record  of the same mesh; is told every collapse
     * @return array{positions: list<float>, faces: list<int>, support: list<int>, origin: list<int>}
     */
    public static function run(array $P, array $F, array $S, array $origin, int $target, float $limit, float $boundaryWeight, callable $tell, array $locked = [], array $weighted = [], float $weight = 1.0, ?ProgressiveMesh $record = null): array
    {
        $mesh = new CollapsingMesh($P, $F, $S, $origin);
        $mesh->lock($locked);
        $mesh->weigh($weighted, $weight);
        if ($record !== null) {
            $record->middle = $mesh->middle;
        }
        [$P, $F, $S, $origin] = [[], [], [], []];
        $start = $mesh->faceCount;
        [$share, $widened] = [0.0, 1.0];
        for ($round = 1; $mesh->faceCount > $target; $round++) {
            $stars = Stars::of($mesh->corners, $mesh->vertexCount, $mesh->faceCount);
            $hasRims ??= $mesh->markRims($stars);
            Quadrics::ofFaces($mesh);
            if ($hasRims) {
                Quadrics::holdRims($mesh, $stars, $boundaryWeight);
            }
            $left = max(0, self::LEVELS - intdiv($round - 1, self::ROUNDS_A_LEVEL));
            if ($limit !== INF) {
                $queue = EdgeQueue::within($mesh, $stars, $limit / 4.0 ** $left, $grain ??= $limit * self::meanArea($mesh));
            } else {
                $share = $widened * ($mesh->faceCount > self::FAR * $target ? self::HASTY_SHARE : self::SHARE);
                $queue = EdgeQueue::cheapest($mesh, $stars, $round > self::SORTED_ROUNDS ? INF : min(1.0, $share), $rounding ??= self::rounding($mesh));
            }
            if ($queue === [] && ($limit === INF || $left === 0)) {
                break;
            }
            $collapsed = self::collapse($mesh, $stars, $queue, $mesh->faceCount - $target);
            $record?->record($collapsed, $mesh->vertices);
            $queue = $stars = $collapsed = null;
            $went = $mesh->compact();
            $tell(min(1.0, ($start - $mesh->faceCount) / max(1, $start - $target)));
            if ($went === 0 && ($limit === INF ? $share >= 1.0 : $left === 0)) {
                break;
            }
            $widened *= $went === 0 ? 2.0 : 1.0;
        }
        [$F, $origin] = $mesh->faces();

        return ['positions' => $mesh->positions(), 'faces' => $F, 'support' => $mesh->support(), 'origin' => $origin];
    }

    /** What an open edge weighs, beside the faces at it, where rims keep their shape or not. */
    public static function rimWeight(bool $keepsRims): float
    {
        return $keepsRims ? 100.0 : 0.0;
    }

    /** Mean area around a vertex, mm2. */
    private static function meanArea(CollapsingMesh $mesh): float
    {
        $area = 0.0;
        for ($o = 3, $e = 4 * $mesh->vertexCount; $o < $e; $o += 4) {
            $area += $mesh->vertices[$o];
        }

        return $area / max(1, $mesh->vertexCount);
    }

    /** The error that rounding may show in a mesh whose quadrics were just gathered, mm4. */
    private static function rounding(CollapsingMesh $mesh): float
    {
        $halfSizeSq = 0.0;
        foreach ($mesh->vertices as $k => $value) {
            $halfSizeSq = ($k & 3) === 3 ? $halfSizeSq : max($halfSizeSq, $value * $value);
        }

        return self::ROUNDING * $halfSizeSq * self::meanArea($mesh);
    }

    /**
     * One round; the lower vertex of an edge takes the place of both.
     *
     * @param  list<int>  $queue  see EdgeQueue
     * @param  int  $remove  faces to take away at most, one more where an edge has two
     * @return list<int> the collapses in order: see ProgressiveMesh::record()
     */
    private static function collapse(CollapsingMesh $mesh, Stars $stars, array $queue, int $remove): array
    {
        $collapsed = [];
        // Arrays behind a property are slow to write to; they live in locals for the length of the round.
        [$V, $Q, $R, $states, $T] = [$mesh->vertices, $mesh->quadrics, $mesh->rests, $mesh->states, $mesh->corners];
        $mesh->vertices = $mesh->states = $mesh->corners = [];
        $st = $stars->start;
        $H = $stars->halfEdges;
        $mark = array_fill(0, count($st) - 1, -2);
        $taken = CollapsingMesh::BUSY | CollapsingMesh::GONE | CollapsingMesh::LOCKED;
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
            $x = $V[$i] + 0.5 * $ux;
            $y = $V[$i + 1] + 0.5 * $uy;
            $z = $V[$i + 2] + 0.5 * $uz;
            // Half the slope of the error at the middle of the edge; the least error lies -A^-1 of it away.
            $gx = $xx * $x + $xy * $y + $xz * $z + $xd;
            $gy = $xy * $x + $yy * $y + $yz * $z + $yd;
            $gz = $xz * $x + $yz * $y + $zz * $z + $zd;
            $stay = self::STAY * ($xx + $yy + $zz) + 1e-90;
            $xx += $stay;
            $yy += $stay;
            $zz += $stay;
            $cxx = $yy * $zz - $yz * $yz;
            $cxy = $xz * $yz - $xy * $zz;
            $cxz = $xy * $yz - $xz * $yy;
            $cyz = $xy * $xz - $xx * $yz;
            $q = -1.0 / ($xx * $cxx + $xy * $cxy + $xz * $cxz);
            $dx = $q * ($cxx * $gx + $cxy * $gy + $cxz * $gz);
            $dy = $q * ($cxy * $gx + ($xx * $zz - $xz * $xz) * $gy + $cyz * $gz);
            $dz = $q * ($cxz * $gx + $cyz * $gy + ($xx * $yy - $xy * $xy) * $gz);
            // An optimum far from its edge comes from a nearly singular system.
            if ($dx * $dx + $dy * $dy + $dz * $dz <= $ux * $ux + $uy * $uy + $uz * $uz) {
                $x += $dx;
                $y += $dy;
                $z += $dz;
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
            $states[$a] = self::merged($states[$a], $states[$b]);
            $states[$b] |= CollapsingMesh::GONE;
            $collapsed[] = $b << 32 | $a << 1 | ($faces - 1);
        }
        [$mesh->vertices, $mesh->states, $mesh->corners] = [$V, $states, $T];

        return $collapsed;
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
