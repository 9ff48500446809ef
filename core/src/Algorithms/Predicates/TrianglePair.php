<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Predicates;

/**
 * Whether two triangles of a mesh have more in common than the corner or edge that they share, decided exactly.
 *
 * Source    Moeller 1997 and Guigue & Devillers 2003 (by orientations alone); for corners and edges in common the case distinction of Loriot, Tayeb & Rouxel-Labbe, "Polygon Mesh Processing"; separating lines in
 *           the plane (Gottschalk, Lin & Manocha 1996).
 * Input     corners at these places of the coordinates; corners with the same coordinates count as one, whatever their number.
 * Limits    a triangle without area is no partner of any: it is a fault of its own.
 *
 * Filters in floating point come first; what rounding could turn is asked of Orient3d.
 *
 * @internal
 */
final class TrianglePair
{
    /** Error of a difference of two products of differences, as a share of the sum of both: 4.4e-16, with room. */
    private const ROUNDING = 1e-15;

    /** The two coordinates that are left when one looks along the third, in the order that keeps turns. */
    private const OTHERS = [[1, 2], [2, 0], [0, 1]];

    /**
     * @param  array<int, float>  $p  coordinates; the corners a, b, c of one triangle and d, e, f of the other begin at these places
     * @param  float  $error  more than rounding can have done to the determinant of three differences of them
     */
    public static function overlaps(array $p, int $a, int $b, int $c, int $d, int $e, int $f, float $error): bool
    {
        $x = $p[$a];
        $ux = $p[$b] - $x;
        $vx = $p[$c] - $x;
        $y = $p[$a + 1];
        $uy = $p[$b + 1] - $y;
        $vy = $p[$c + 1] - $y;
        $z = $p[$a + 2];
        $uz = $p[$b + 2] - $z;
        $vz = $p[$c + 2] - $z;
        $nx = $uy * $vz - $uz * $vy;
        $ny = $uz * $vx - $ux * $vz;
        $nz = $ux * $vy - $uy * $vx;
        $d0 = $nx * ($p[$d] - $x) + $ny * ($p[$d + 1] - $y) + $nz * ($p[$d + 2] - $z);
        $e0 = $nx * ($p[$e] - $x) + $ny * ($p[$e + 1] - $y) + $nz * ($p[$e + 2] - $z);
        $f0 = $nx * ($p[$f] - $x) + $ny * ($p[$f + 1] - $y) + $nz * ($p[$f + 2] - $z);
        if (($d0 > $error && $e0 > $error && $f0 > $error) || ($d0 < -$error && $e0 < -$error && $f0 < -$error)) {
            return false;
        }
        // Corners in common are brought to the front: a and d, then b and e.
        $shared = 0;
        for ($k = 0; $k < 3; $k++) {
            $v = $k === 0 ? $a : ($k === 1 ? $b : $c);
            $w = self::same($p, $v, $d) ? 0 : (self::same($p, $v, $e) ? 1 : (self::same($p, $v, $f) ? 2 : -1));
            if ($w < 0) {
                continue;
            }
            [$a, $b, $c] = $k === 0 ? [$a, $b, $c] : ($k === 1 ? [$b, $c, $a] : [$c, $a, $b]);
            [$d, $e, $f] = $w === 0 ? [$d, $e, $f] : ($w === 1 ? [$e, $f, $d] : [$f, $d, $e]);
            $shared = 1;
            // A second one among the four that are left, and then a third.
            foreach ([[$b, $e], [$b, $f], [$c, $e], [$c, $f]] as $at => [$one, $other]) {
                if (self::same($p, $one, $other)) {
                    $shared++;
                    [$b, $c] = $at < 2 ? [$b, $c] : [$c, $b];
                    [$e, $f] = $at % 2 === 0 ? [$e, $f] : [$f, $e];
                    $shared += self::same($p, $c, $f) ? 1 : 0;
                    break;
                }
            }
            break;
        }

        $isMore = match ($shared) {
            0 => self::disjointCorners($p, $a, $b, $c, $d, $e, $f, [$nx, $ny, $nz]),
            1 => self::oneCorner($p, $a, $b, $c, $e, $f, [$nx, $ny, $nz]),
            2 => self::oneEdge($p, $a, $b, $c, $f, [$nx, $ny, $nz]),
            default => false,
        };

        return $isMore && self::spreading($p, $a, $b, $c) !== null && self::spreading($p, $d, $e, $f) !== null;
    }

    /** @param  array<int, float>  $p */
    private static function same(array $p, int $v, int $w): bool
    {
        return $v === $w || ($p[$v] === $p[$w] && $p[$v + 1] === $p[$w + 1] && $p[$v + 2] === $p[$w + 2]);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array{float, float, float}  $n  normal of the first, any length
     */
    private static function disjointCorners(array $p, int $a, int $b, int $c, int $d, int $e, int $f, array $n): bool
    {
        [$i, $j] = self::flattest($n);
        if (self::isApart($p, $a, $b, $c, $d, $e, $f, $i, $j)) {
            return false;
        }
        $d0 = Orient3d::side($p, $a, $b, $c, $d);
        $e0 = Orient3d::side($p, $a, $b, $c, $e);
        $f0 = Orient3d::side($p, $a, $b, $c, $f);
        if ($d0 === $e0 && $e0 === $f0 && $d0 !== 0) {
            return false;
        }
        if ($d0 === 0 && $e0 === 0 && $f0 === 0) {
            return self::inOnePlane($p, [$a, $b, $c], [$d, $e, $f]);
        }
        $a0 = Orient3d::side($p, $d, $e, $f, $a);
        $b0 = Orient3d::side($p, $d, $e, $f, $b);
        $c0 = Orient3d::side($p, $d, $e, $f, $c);
        if ($a0 === $b0 && $b0 === $c0) {
            // All zero with the other triangle out of their plane: it has no area.
            return false;
        }

        return self::meets($p, $a, $b, $a0, $b0, $d, $e, $f) || self::meets($p, $b, $c, $b0, $c0, $d, $e, $f) || self::meets($p, $c, $a, $c0, $a0, $d, $e, $f)
            || self::meets($p, $d, $e, $d0, $e0, $a, $b, $c) || self::meets($p, $e, $f, $e0, $f0, $a, $b, $c) || self::meets($p, $f, $d, $f0, $d0, $a, $b, $c);
    }

    /**
     * With corner a in common: whatever else they share reaches from there to the edge across from it, of the one or the other.
     *
     * @param  array<int, float>  $p
     * @param  array{float, float, float}  $n
     */
    private static function oneCorner(array $p, int $a, int $b, int $c, int $e, int $f, array $n): bool
    {
        if (self::isWedgeApart($p, $a, $b, $c, $e, $f, $n)) {
            return false;
        }
        $e0 = Orient3d::side($p, $a, $b, $c, $e);
        $f0 = Orient3d::side($p, $a, $b, $c, $f);
        if ($e0 === $f0 && $e0 !== 0) {
            return false;
        }
        if ($e0 === 0 && $f0 === 0) {
            return self::edgeMeetsFlat($p, $e, $f, $a, $b, $c) || self::edgeMeetsFlat($p, $b, $c, $a, $e, $f);
        }
        $b0 = Orient3d::side($p, $a, $e, $f, $b);
        $c0 = Orient3d::side($p, $a, $e, $f, $c);

        return ($b0 !== $c0 || $b0 === 0) && (self::meets($p, $e, $f, $e0, $f0, $a, $b, $c) || self::meets($p, $b, $c, $b0, $c0, $a, $e, $f));
    }

    /**
     * With edge a b in common: out of one plane they share no more; in one plane when they lie to the same side.
     *
     * @param  array<int, float>  $p
     * @param  array{float, float, float}  $n
     */
    private static function oneEdge(array $p, int $a, int $b, int $c, int $f, array $n): bool
    {
        [$i, $j] = self::flattest($n);
        // Seen along the normal of the first most neighbours lie to either side.
        $ux = $p[$b + $i] - $p[$a + $i];
        $uy = $p[$b + $j] - $p[$a + $j];
        $cx = $ux * ($p[$c + $j] - $p[$a + $j]);
        $cy = $uy * ($p[$c + $i] - $p[$a + $i]);
        $fx = $ux * ($p[$f + $j] - $p[$a + $j]);
        $fy = $uy * ($p[$f + $i] - $p[$a + $i]);
        $cError = self::ROUNDING * (($cx < 0.0 ? -$cx : $cx) + ($cy < 0.0 ? -$cy : $cy));
        $fError = self::ROUNDING * (($fx < 0.0 ? -$fx : $fx) + ($fy < 0.0 ? -$fy : $fy));
        if (($cx - $cy > $cError && $fx - $fy < -$fError) || ($cx - $cy < -$cError && $fx - $fy > $fError)) {
            return false;
        }
        if (Orient3d::side($p, $a, $b, $c, $f) !== 0) {
            return false;
        }
        foreach (self::OTHERS as [$i, $j]) {
            $one = Orient3d::turn($p, $a, $b, $c, $i, $j);
            if ($one !== 0) {
                return $one === Orient3d::turn($p, $a, $b, $f, $i, $j);
            }
        }

        return false;
    }

    /**
     * The two coordinates that spread a triangle most.
     *
     * @param  array{float, float, float}  $n
     * @return array{int, int}
     */
    private static function flattest(array $n): array
    {
        $x = abs($n[0]);
        $y = abs($n[1]);
        $z = abs($n[2]);

        return self::OTHERS[$x > $y ? ($x > $z ? 0 : 2) : ($y > $z ? 1 : 2)];
    }

    /**
     * Whether an edge of one of two triangles leaves all of the other beyond it, seen along an axis and beyond doubt.
     *
     * @param  array<int, float>  $p
     */
    private static function isApart(array $p, int $a, int $b, int $c, int $d, int $e, int $f, int $i, int $j): bool
    {
        return self::isBeyond($p, $a, $b, $c, $d, $e, $f, $i, $j) || self::isBeyond($p, $b, $c, $a, $d, $e, $f, $i, $j) || self::isBeyond($p, $c, $a, $b, $d, $e, $f, $i, $j)
            || self::isBeyond($p, $d, $e, $f, $a, $b, $c, $i, $j) || self::isBeyond($p, $e, $f, $d, $a, $b, $c, $i, $j) || self::isBeyond($p, $f, $d, $e, $a, $b, $c, $i, $j);
    }

    /**
     * Whether three points lie strictly to that side of the line from a to b on which c does not.
     *
     * @param  array<int, float>  $p
     */
    private static function isBeyond(array $p, int $a, int $b, int $c, int $d, int $e, int $f, int $i, int $j): bool
    {
        $x = $p[$a + $i];
        $y = $p[$a + $j];
        $ux = $p[$b + $i] - $x;
        $uy = $p[$b + $j] - $y;
        $one = $ux * ($p[$c + $j] - $y);
        $two = $uy * ($p[$c + $i] - $x);
        $side = $one - $two;
        $error = self::ROUNDING * (($one < 0.0 ? -$one : $one) + ($two < 0.0 ? -$two : $two));
        if ($side <= $error && $side >= -$error) {
            return false;
        }
        $sign = $side > 0.0 ? 1.0 : -1.0;
        $one = $sign * $ux * ($p[$d + $j] - $y);
        $two = $sign * $uy * ($p[$d + $i] - $x);
        if ($one - $two >= -self::ROUNDING * (($one < 0.0 ? -$one : $one) + ($two < 0.0 ? -$two : $two))) {
            return false;
        }
        $one = $sign * $ux * ($p[$e + $j] - $y);
        $two = $sign * $uy * ($p[$e + $i] - $x);
        if ($one - $two >= -self::ROUNDING * (($one < 0.0 ? -$one : $one) + ($two < 0.0 ? -$two : $two))) {
            return false;
        }
        $one = $sign * $ux * ($p[$f + $j] - $y);
        $two = $sign * $uy * ($p[$f + $i] - $x);

        return $one - $two < -self::ROUNDING * (($one < 0.0 ? -$one : $one) + ($two < 0.0 ? -$two : $two));
    }

    /**
     * Whether, seen along the normal of the first, two triangles with corner a in common lie in different wedges there, beyond doubt.
     *
     * @param  array<int, float>  $p
     * @param  array{float, float, float}  $n
     */
    private static function isWedgeApart(array $p, int $a, int $b, int $c, int $e, int $f, array $n): bool
    {
        [$i, $j] = self::flattest($n);
        $x = $p[$a + $i];
        $y = $p[$a + $j];
        $bx = $p[$b + $i] - $x;
        $by = $p[$b + $j] - $y;
        $cx = $p[$c + $i] - $x;
        $cy = $p[$c + $j] - $y;
        $ex = $p[$e + $i] - $x;
        $ey = $p[$e + $j] - $y;
        $fx = $p[$f + $i] - $x;
        $fy = $p[$f + $j] - $y;
        // One error for all six: of the largest of them.
        $most = max(abs($bx), abs($by), abs($cx), abs($cy), abs($ex), abs($ey), abs($fx), abs($fy));
        $error = 2.0 * self::ROUNDING * $most * $most;
        $bc = $bx * $cy - $by * $cx;
        $be = $bx * $ey - $by * $ex;
        $bf = $bx * $fy - $by * $fx;
        if ($bc > $error) {
            $ce = $cx * $ey - $cy * $ex;
            $cf = $cx * $fy - $cy * $fx;
            if (($be < -$error && $bf < -$error) || ($ce > $error && $cf > $error)) {
                return true;
            }
        } elseif ($bc < -$error) {
            $ce = $cx * $ey - $cy * $ex;
            $cf = $cx * $fy - $cy * $fx;
            if (($be > $error && $bf > $error) || ($ce < -$error && $cf < -$error)) {
                return true;
            }
        } else {
            return false;
        }
        $ef = $ex * $fy - $ey * $fx;

        return ($ef > $error && (($be > $error && $ce > $error) || ($bf < -$error && $cf < -$error)))
            || ($ef < -$error && (($be < -$error && $ce < -$error) || ($bf > $error && $cf > $error)));
    }

    /**
     * Whether the segment from q to r, whose ends lie on these sides of the plane of a triangle, has a point of the triangle.
     *
     * @param  array<int, float>  $p
     */
    private static function meets(array $p, int $q, int $r, int $qSide, int $rSide, int $t, int $u, int $v): bool
    {
        if ($qSide * $rSide > 0) {
            return false;
        }
        if ($qSide === 0 && $rSide === 0) {
            return self::edgeMeetsFlat($p, $q, $r, $t, $u, $v);
        }
        $x = Orient3d::side($p, $q, $r, $t, $u);
        $y = Orient3d::side($p, $q, $r, $u, $v);
        if ($x * $y < 0) {
            return false;
        }
        $z = Orient3d::side($p, $q, $r, $v, $t);

        return $x * $z >= 0 && $y * $z >= 0;
    }

    /**
     * Whether a segment in the plane of a triangle has a point of it: no edge of the triangle leaves it beyond, and its own line does not leave the triangle to one side.
     *
     * @param  array<int, float>  $p
     */
    private static function edgeMeetsFlat(array $p, int $q, int $r, int $t, int $u, int $v): bool
    {
        $plane = self::spreading($p, $t, $u, $v);
        if ($plane === null) {
            return false;
        }
        [$i, $j, $sign] = $plane;
        foreach ([[$t, $u], [$u, $v], [$v, $t]] as [$from, $to]) {
            if ($sign * Orient3d::turn($p, $from, $to, $q, $i, $j) < 0 && $sign * Orient3d::turn($p, $from, $to, $r, $i, $j) < 0) {
                return false;
            }
        }
        $side = Orient3d::turn($p, $q, $r, $t, $i, $j);

        return $side === 0 || Orient3d::turn($p, $q, $r, $u, $i, $j) !== $side || Orient3d::turn($p, $q, $r, $v, $i, $j) !== $side;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array{int, int, int}  $one
     * @param  array{int, int, int}  $other
     */
    private static function inOnePlane(array $p, array $one, array $other): bool
    {
        foreach ([[$one, $other], [$other, $one]] as [$here, $there]) {
            $plane = self::spreading($p, ...$here);
            if ($plane === null) {
                return false;
            }
            [$i, $j, $sign] = $plane;
            for ($k = 0; $k < 3; $k++) {
                $beyond = true;
                foreach ($there as $v) {
                    $beyond = $beyond && $sign * Orient3d::turn($p, $here[$k], $here[($k + 1) % 3], $v, $i, $j) < 0;
                }
                if ($beyond) {
                    return false;
                }
            }
        }

        return true;
    }

    /**
     * Two coordinates in which a triangle has area, and the way it goes round there; null where it has none.
     *
     * @param  array<int, float>  $p
     * @return array{int, int, int}|null
     */
    private static function spreading(array $p, int $t, int $u, int $v): ?array
    {
        foreach (self::OTHERS as [$i, $j]) {
            $sign = Orient3d::turn($p, $t, $u, $v, $i, $j);
            if ($sign !== 0) {
                return [$i, $j, $sign];
            }
        }

        return null;
    }
}
