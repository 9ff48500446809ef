<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Algorithms\Surface\Winding;
use Emberstone\Core\Geometry\BoundingBox;

/**
 * Union, difference and intersection of two closed meshes.
 *
 * Source    the meshes are parted along each other (MeshArrangement); each connected part between the curves lies inside the other mesh, outside it, or on it, and is kept or dropped as a whole
 *           (Zhou et al. 2016). On which side of the curve it lies is read from the planes of the faces of the other mesh there; for a part without a curve, or where that is too near to tell, from the
 *           generalized winding number (Jacobson et al. 2013).
 * Input     closed meshes without faults.
 * Output    closed, and looked through for crossings in all faces that were parted; else `trouble` says where not.
 * Error     faces that were not parted are as they were; new vertices are rounded, see ImplicitPoints, and those that come nearer to each other than SNAP become one.
 * Cost      about that of two trees of faces; 0.3 KB a face.
 *
 * @internal
 */
final readonly class MeshBoolean
{
    public const UNION = 'union';

    public const DIFFERENCE = 'difference';

    public const INTERSECTION = 'intersection';

    /** New vertices this near to each other become one, as a share of the diagonal of both meshes: a thousand times what rounding does. */
    private const SNAP = 1e-11;

    /** How far, as a share of its longest edge, a face must stand off a plane of the other mesh for its side to be read from that. */
    private const CLEAR = 1e-6;

    /**
     * @param  list<float>  $positions  flat xyz: those of the first mesh, of the second, and new ones
     * @param  list<int>  $faces  flat vertex indices
     * @param  list<int>  $source  of each face, the face that it is of or is part of; those of the second mesh come after those of the first
     * @param  list<array{int, int, float}>  $between  of each new vertex, the ends of the edge that it lies on, and how far along that, 0 to 1
     * @param  bool  $met  whether the surfaces meet at all
     * @param  array{float, float, float}|null  $trouble  where the result is not closed or crosses itself
     */
    private function __construct(public array $positions, public array $faces, public array $source, public array $between, public bool $met, public ?array $trouble)
    {
    }

    /**
     * @param  array{list<float>, list<int>}  $one  flat xyz and flat vertex indices
     * @param  array{list<float>, list<int>}  $two  what is added, taken away, or kept in common
     * @param  string  $kind  UNION, DIFFERENCE or INTERSECTION
     * @param  (callable(float): void)|null  $breathe  told the share done; may throw to stop
     */
    public static function of(array $one, array $two, string $kind, ?callable $breathe = null): self
    {
        $count = intdiv(count($one[0]), 3);
        $split = intdiv(count($one[1]), 3);
        $faces = $one[1];
        $names = self::names($one[0], $two[0]);
        foreach ($two[1] as $v) {
            $faces[] = $names[$v] ?? $count + $v;
        }
        $positions = [...$one[0], ...$two[0]];
        $given = intdiv(count($positions), 3);
        $parts = MeshArrangement::of($positions, $faces, $split, $breathe === null ? null : fn (float $share) => $breathe(0.7 * $share));
        if ($parts->trouble !== null) {
            return new self($positions, [], [], [], true, $parts->trouble);
        }
        $kept = self::kept($parts, $faces, $split, $kind);
        $p = $parts->points->positions;
        if (is_array($kept['trouble'])) {
            return new self($p, [], [], [], true, $kept['trouble']);
        }
        [$made, $source] = self::snapped($p, $kept['faces'], $kept['source'], $given, self::SNAP * BoundingBox::of($p)->diagonal());
        $between = [];
        for ($v = $given, $n = intdiv(count($p), 3); $v < $n; $v++) {
            $between[] = self::along($p, $v, ...$parts->points->edge($v) ?? [$v, $v]);
        }
        $breathe === null || $breathe(0.8);

        return new self($p, $made, $source, $between, $parts->seams !== [], self::trouble($p, $made, $source, array_count_values($parts->source)));
    }

    /**
     * Vertices of the second mesh that stand where one of the first stands.
     *
     * @param  list<float>  $p
     * @param  list<float>  $q
     * @return array<int, int> second => first
     */
    private static function names(array $p, array $q): array
    {
        $at = $names = [];
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            // Adding 0 makes one zero of the two.
            $at[pack('d3', $p[$o] + 0.0, $p[$o + 1] + 0.0, $p[$o + 2] + 0.0)] = intdiv($o, 3);
        }
        for ($o = 0, $n = count($q); $o < $n; $o += 3) {
            $v = $at[pack('d3', $q[$o] + 0.0, $q[$o + 1] + 0.0, $q[$o + 2] + 0.0)] ?? -1;
            if ($v >= 0) {
                $names[intdiv($o, 3)] = $v;
            }
        }

        return $names;
    }

    /**
     * The parts that belong to the result, those of the second mesh turned inside out where they are the wall of what was taken away.
     *
     * @param  list<int>  $f  the faces before they were parted
     * @return array{faces: list<int>, source: list<int>, trouble: array{float, float, float}|null}
     */
    private static function kept(MeshArrangement $parts, array $f, int $split, string $kind): array
    {
        $p = $parts->points->positions;
        for ($border = 0, $n = count($parts->source); $border < $n && $parts->source[$border] < $split; $border++);
        $meshes = [[array_slice($f, 0, 3 * $split), 0, $border], [array_slice($f, 3 * $split), $border, $n]];
        $faces = $source = [];
        foreach ($meshes as $which => [, $from, $to]) {
            $own = array_slice($parts->faces, 3 * $from, 3 * ($to - $from));
            $pieces = self::pieces($parts, $own);
            $states = PieceSides::of($parts, $f, $own, $from, $pieces, $which === 0 ? [$split, intdiv(count($f), 3)] : [0, $split], self::CLEAR);
            foreach ($states as $piece => $state) {
                // Too near to tell from the planes: by the winding number of the other mesh, at the middle of the largest face.
                if ($state === PieceSides::UNSURE) {
                    $states[$piece] = self::byWinding($p, $own, $pieces['of'], $piece, $meshes[1 - $which][0]);
                }
            }
            $isWanted = self::wanted($kind, $which);
            $isTurned = $which === 1 && $kind === self::DIFFERENCE;
            for ($t = 0, $m = $to - $from; $t < $m; $t++) {
                $state = $states[$pieces['of'][$t]];
                if ($state === PieceSides::UNSURE) {
                    return ['faces' => [], 'source' => [], 'trouble' => $parts->points->place($own[3 * $t])];
                }
                if (! in_array($state, $isWanted, true)) {
                    continue;
                }
                $isTurned ? array_push($faces, $own[3 * $t], $own[3 * $t + 2], $own[3 * $t + 1]) : array_push($faces, $own[3 * $t], $own[3 * $t + 1], $own[3 * $t + 2]);
                $source[] = $parts->source[$from + $t];
            }
        }

        return ['faces' => $faces, 'source' => $source, 'trouble' => null];
    }

    /** @return list<int> the sides whose parts of the first (0) or second (1) mesh belong to the result; what lies on both is taken from the first */
    private static function wanted(string $kind, int $which): array
    {
        return match ([$kind, $which]) {
            [self::UNION, 0] => [PieceSides::OUTSIDE, PieceSides::ON],
            [self::UNION, 1] => [PieceSides::OUTSIDE],
            [self::DIFFERENCE, 0] => [PieceSides::OUTSIDE, PieceSides::AGAINST],
            [self::DIFFERENCE, 1] => [PieceSides::INSIDE],
            [self::INTERSECTION, 0] => [PieceSides::INSIDE, PieceSides::ON],
            default => [PieceSides::INSIDE],
        };
    }

    /**
     * @param  list<int>  $own  flat vertex indices
     * @return array{count: int, of: list<int>} which connected piece between the seams each face is of
     */
    private static function pieces(MeshArrangement $parts, array $own): array
    {
        $twin = Topology::twins($own);
        foreach (PieceSides::atSeams($parts, $own) as [$h]) {
            $twin[$h] = -1;
        }

        return Topology::pieces($twin);
    }

    /**
     * @param  list<float>  $p
     * @param  list<int>  $own
     * @param  list<int>  $of
     * @param  list<int>  $other
     */
    private static function byWinding(array $p, array $own, array $of, int $piece, array $other): int
    {
        $best = [-1.0, 0.0, 0.0, 0.0];
        foreach ($of as $t => $one) {
            if ($one !== $piece) {
                continue;
            }
            [$a, $b, $c] = [3 * $own[3 * $t], 3 * $own[3 * $t + 1], 3 * $own[3 * $t + 2]];
            [$ux, $uy, $uz] = [$p[$b] - $p[$a], $p[$b + 1] - $p[$a + 1], $p[$b + 2] - $p[$a + 2]];
            [$vx, $vy, $vz] = [$p[$c] - $p[$a], $p[$c + 1] - $p[$a + 1], $p[$c + 2] - $p[$a + 2]];
            $sizeSq = ($uy * $vz - $uz * $vy) ** 2 + ($uz * $vx - $ux * $vz) ** 2 + ($ux * $vy - $uy * $vx) ** 2;
            if ($sizeSq > $best[0]) {
                $best = [$sizeSq, ($p[$a] + $p[$b] + $p[$c]) / 3.0, ($p[$a + 1] + $p[$b + 1] + $p[$c + 1]) / 3.0, ($p[$a + 2] + $p[$b + 2] + $p[$c + 2]) / 3.0];
            }
        }
        $winding = Winding::at($p, $other, [$best[1], $best[2], $best[3]]);

        return abs($winding - 0.5) < 0.25 ? PieceSides::UNSURE : ($winding > 0.5 ? PieceSides::INSIDE : PieceSides::OUTSIDE);
    }

    /**
     * Makes one vertex of new ones that lie within a distance along an edge, and drops the faces that vanish with it.
     *
     * @param  list<float>  $p
     * @param  list<int>  $f
     * @param  list<int>  $source
     * @param  int  $given  vertices that stay
     * @return array{list<int>, list<int>} faces and their sources
     */
    private static function snapped(array $p, array $f, array $source, int $given, float $snap): array
    {
        /** @var array<int, int> $joined */
        $joined = [];
        $root = function (int $v) use (&$joined): int {
            while (($joined[$v] ?? -1) >= 0) {
                $v = $joined[$v];
            }

            return $v;
        };
        for ($h = 0, $n = count($f); $h < $n; $h++) {
            $a = $f[$h];
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            if (($a >= $given || $b >= $given) && max(abs($p[3 * $a] - $p[3 * $b]), abs($p[3 * $a + 1] - $p[3 * $b + 1]), abs($p[3 * $a + 2] - $p[3 * $b + 2])) <= $snap) {
                [$low, $high] = [min($root($a), $root($b)), max($root($a), $root($b))];
                if ($low !== $high && $high >= $given) {
                    $joined[$high] = $low;
                }
            }
        }
        if ($joined === []) {
            return [$f, $source];
        }
        $faces = $sources = [];
        foreach ($source as $t => $from) {
            [$a, $b, $c] = [$root($f[3 * $t]), $root($f[3 * $t + 1]), $root($f[3 * $t + 2])];
            if ($a !== $b && $b !== $c && $c !== $a) {
                array_push($faces, $a, $b, $c);
                $sources[] = $from;
            }
        }

        return [$faces, $sources];
    }

    /**
     * @param  list<float>  $p
     * @param  list<int>  $f
     * @param  list<int>  $source
     * @param  array<int, int>  $counts  of each source, its parts
     * @return array{float, float, float}|null a place where the surface is open, pinched, or crosses itself
     */
    private static function trouble(array $p, array $f, array $source, array $counts): ?array
    {
        $place = fn (int $v): array => [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]];
        $twin = Topology::twins($f);
        foreach ($twin as $h => $other) {
            if ($other < 0) {
                return $place($f[$h]);
            }
        }
        [$q, $g, $none] = [$p, $f, []];
        if (Topology::splitFans($q, $g, $none, $twin) > 0) {
            return [$q[count($p)], $q[count($p) + 1], $q[count($p) + 2]];
        }
        $asked = [];
        foreach ($source as $t => $from) {
            if ($counts[$from] > 1) {
                $asked[] = $t;
            }
        }
        $pairs = $asked === [] ? [] : Intersections::pairs($p, $f, $asked);

        return $pairs === [] ? null : $place($f[3 * $pairs[0]]);
    }

    /**
     * @param  list<float>  $p
     * @return array{int, int, float}
     */
    private static function along(array $p, int $v, int $a, int $b): array
    {
        $way = $lengthSq = 0.0;
        for ($k = 0; $k < 3; $k++) {
            $step = $p[3 * $b + $k] - $p[3 * $a + $k];
            $way += $step * ($p[3 * $v + $k] - $p[3 * $a + $k]);
            $lengthSq += $step * $step;
        }

        return [$a, $b, $lengthSq > 0.0 ? $way / $lengthSq : 0.0];
    }
}
