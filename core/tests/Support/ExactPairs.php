<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

/**
 * Whether two triangles have more in common than their common corners, in whole numbers: convex sets are apart exactly when a separating direction is among few candidates (Gottschalk, Lin & Manocha 1996).
 * Exact for whole coordinates up to some hundreds; shares no code with the core.
 */
final class ExactPairs
{
    /**
     * @param  list<array{int, int, int}>  $one  three corners
     * @param  list<array{int, int, int}>  $other
     */
    public static function overlap(array $one, array $other): bool
    {
        if (self::cross(self::less($one[1], $one[0]), self::less($one[2], $one[0])) === [0, 0, 0] || self::cross(self::less($other[1], $other[0]), self::less($other[2], $other[0])) === [0, 0, 0]) {
            return false;
        }
        $common = array_values(array_filter($one, fn (array $v) => in_array($v, $other, true)));
        $here = array_values(array_filter($one, fn (array $v) => ! in_array($v, $common, true)));
        $there = array_values(array_filter($other, fn (array $v) => ! in_array($v, $common, true)));

        return match (count($common)) {
            0 => ! self::isApart($one, $other),
            // Whatever else they share reaches to an edge across from the corner in common.
            1 => ! self::isApart($here, $other) || ! self::isApart($there, $one),
            // They share more when both third corners lie in one plane, to one side of the edge.
            2 => self::isFolded($common, $here[0], $there[0]),
            default => false,
        };
    }

    /** @param  list<array{int, int, int}>  $edge */
    private static function isFolded(array $edge, array $c, array $f): bool
    {
        $e = self::less($edge[1], $edge[0]);
        $n = self::cross($e, self::less($c, $edge[0]));
        $m = self::cross($e, self::less($f, $edge[0]));

        return self::cross($n, $m) === [0, 0, 0] && self::dot($n, $m) > 0;
    }

    /**
     * Two convex hulls of two or three points each.
     *
     * @param  list<array{int, int, int}>  $a
     * @param  list<array{int, int, int}>  $b
     */
    private static function isApart(array $a, array $b): bool
    {
        $edges = fn (array $of): array => count($of) === 2 ? [self::less($of[1], $of[0])] : [self::less($of[1], $of[0]), self::less($of[2], $of[1]), self::less($of[0], $of[2])];
        [$u, $v] = [$edges($a), $edges($b)];
        $normals = array_map(fn (array $of) => self::cross($of[0], $of[1]), array_filter([$u, $v], fn (array $of) => count($of) === 3));
        $axes = $normals;
        foreach ($u as $x) {
            foreach ($v as $y) {
                $axes[] = self::cross($x, $y);
            }
        }
        foreach ($normals as $n) {
            foreach ([...$u, ...$v] as $x) {
                $axes[] = self::cross($n, $x);
            }
        }
        // Of segments on one line: along it.
        foreach (count($a) === 2 && count($b) === 2 ? [...$u, ...$v] : [] as $x) {
            $axes[] = $x;
        }
        foreach ($axes as $axis) {
            $p = array_map(fn (array $at) => self::dot($axis, $at), $a);
            $q = array_map(fn (array $at) => self::dot($axis, $at), $b);
            if (max($p) < min($q) || max($q) < min($p)) {
                return true;
            }
        }

        return false;
    }

    /** @return array{int, int, int} */
    private static function less(array $a, array $b): array
    {
        return [$a[0] - $b[0], $a[1] - $b[1], $a[2] - $b[2]];
    }

    /** @return array{int, int, int} */
    private static function cross(array $a, array $b): array
    {
        return [$a[1] * $b[2] - $a[2] * $b[1], $a[2] * $b[0] - $a[0] * $b[2], $a[0] * $b[1] - $a[1] * $b[0]];
    }

    private static function dot(array $a, array $b): int
    {
        return $a[0] * $b[0] + $a[1] * $b[1] + $a[2] * $b[2];
    }
}
