<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Search\TriangleBvh;

/**
 * Pairs of faces of two meshes whose boxes meet.
 *
 * Cost      faces of either mesh that lie outside the box of the other are set aside first; the rest of the smaller one is asked against a tree of the larger.
 *
 * @internal
 */
final class FacePairs
{
    /**
     * @param  array<int, float>  $p  flat xyz, of both
     * @param  array<int, int>  $f  flat vertex indices, of both
     * @param  int  $split  the first face of the second mesh
     * @return list<int> a face of the first mesh and one of the second, flat
     */
    public static function of(array $p, array $f, int $split): array
    {
        $n = intdiv(count($f), 3);
        $one = self::within($p, $f, 0, $split, self::box($p, $f, $split, $n));
        $two = self::within($p, $f, $split, $n, self::box($p, $f, 0, $split));
        if ($one === [] || $two === []) {
            return [];
        }
        $isSwapped = count($one) > count($two);
        [$asking, $asked] = $isSwapped ? [$two, $one] : [$one, $two];
        $corners = [];
        foreach ($asked as $t) {
            array_push($corners, $f[3 * $t], $f[3 * $t + 1], $f[3 * $t + 2]);
        }
        $bvh = TriangleBvh::of($p, $corners);
        $pairs = [];
        foreach ($asking as $t) {
            foreach (self::meeting($bvh, self::box($p, $f, $t, $t + 1)) as $k) {
                $isSwapped ? array_push($pairs, $asked[$k], $t) : array_push($pairs, $t, $asked[$k]);
            }
        }

        return $pairs;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array{float, float, float, float, float, float} lower and upper corner of the faces from one to before another
     */
    private static function box(array $p, array $f, int $from, int $to): array
    {
        $x0 = $y0 = $z0 = INF;
        $x1 = $y1 = $z1 = -INF;
        for ($h = 3 * $from, $end = 3 * $to; $h < $end; $h++) {
            $o = 3 * $f[$h];
            $x = $p[$o];
            $y = $p[$o + 1];
            $z = $p[$o + 2];
            if ($x < $x0) {
                $x0 = $x;
            }
            if ($x > $x1) {
                $x1 = $x;
            }
            if ($y < $y0) {
                $y0 = $y;
            }
            if ($y > $y1) {
                $y1 = $y;
            }
            if ($z < $z0) {
                $z0 = $z;
            }
            if ($z > $z1) {
                $z1 = $z;
            }
        }

        return [$x0, $y0, $z0, $x1, $y1, $z1];
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array{float, float, float, float, float, float}  $box
     * @return list<int> faces from one to before another whose boxes meet it
     */
    private static function within(array $p, array $f, int $from, int $to, array $box): array
    {
        [$x0, $y0, $z0, $x1, $y1, $z1] = $box;
        $found = [];
        for ($t = $from; $t < $to; $t++) {
            $a = 3 * $f[3 * $t];
            $b = 3 * $f[3 * $t + 1];
            $c = 3 * $f[3 * $t + 2];
            if (($p[$a] > $x1 && $p[$b] > $x1 && $p[$c] > $x1) || ($p[$a] < $x0 && $p[$b] < $x0 && $p[$c] < $x0)
                || ($p[$a + 1] > $y1 && $p[$b + 1] > $y1 && $p[$c + 1] > $y1) || ($p[$a + 1] < $y0 && $p[$b + 1] < $y0 && $p[$c + 1] < $y0)
                || ($p[$a + 2] > $z1 && $p[$b + 2] > $z1 && $p[$c + 2] > $z1) || ($p[$a + 2] < $z0 && $p[$b + 2] < $z0 && $p[$c + 2] < $z0)) {
                continue;
            }
            $found[] = $t;
        }

        return $found;
    }

    /**
     * @param  array{float, float, float, float, float, float}  $box
     * @return list<int> triangles of the tree whose leaves meet a box
     */
    private static function meeting(TriangleBvh $bvh, array $box): array
    {
        [$x0, $y0, $z0, $x1, $y1, $z1] = $box;
        $boxes = $bvh->boxes;
        $link = $bvh->link;
        $p = $bvh->points;
        $corners = $bvh->corners;
        $found = [];
        $stack = [0];
        $sp = 1;
        while ($sp > 0) {
            $node = $stack[--$sp];
            $q = 6 * $node;
            if ($boxes[$q] > $x1 || $boxes[$q + 3] < $x0 || $boxes[$q + 1] > $y1 || $boxes[$q + 4] < $y0 || $boxes[$q + 2] > $z1 || $boxes[$q + 5] < $z0) {
                continue;
            }
            $k = $link[$node];
            if ($k >= 0) {
                $k >>= 2;
                $stack[$sp++] = $k;
                $stack[$sp++] = $k + 1;

                continue;
            }
            $k = -1 - $k;
            for ($j = $k >> 3, $e = ($k >> 3) + ($k & 7); $j < $e; $j++) {
                $a = $corners[3 * $j];
                $b = $corners[3 * $j + 1];
                $c = $corners[3 * $j + 2];
                if (($p[$a] > $x1 && $p[$b] > $x1 && $p[$c] > $x1) || ($p[$a] < $x0 && $p[$b] < $x0 && $p[$c] < $x0)
                    || ($p[$a + 1] > $y1 && $p[$b + 1] > $y1 && $p[$c + 1] > $y1) || ($p[$a + 1] < $y0 && $p[$b + 1] < $y0 && $p[$c + 1] < $y0)
                    || ($p[$a + 2] > $z1 && $p[$b + 2] > $z1 && $p[$c + 2] > $z1) || ($p[$a + 2] < $z0 && $p[$b + 2] < $z0 && $p[$c + 2] < $z0)) {
                    continue;
                }
                $found[] = $bvh->order[$j];
            }
        }

        return $found;
    }
}
