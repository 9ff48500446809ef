<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Predicates;

/**
 * On which side of a plane a point lies, without a wrong answer: in floating point where its error bound allows, else in exact arithmetic.
 *
 * Source    Shewchuk 1997, "Adaptive Precision Floating-Point Arithmetic and Fast Robust Geometric Predicates": error bound A of orient3d, then the
 *           determinant as an expansion.
 * Limits    no overflow or underflow on the way: coordinates between 1e-90 and 1e90, or 0.
 */
final class Orient3d
{
    /** (7 + 56 e) e with e = 2^-53. */
    private const BOUND = 7.771561172376103e-16;

    /**
     * @param  array<int, float>  $p  coordinates; those of the points a, b, c and d begin at these places
     * @return int 1 when d lies below the plane of a, b and c, from where they go round against the clock seen from above; -1 when above, 0 in it
     */
    public static function side(array $p, int $a, int $b, int $c, int $d): int
    {
        $adx = $p[$a] - $p[$d];
        $ady = $p[$a + 1] - $p[$d + 1];
        $adz = $p[$a + 2] - $p[$d + 2];
        $bdx = $p[$b] - $p[$d];
        $bdy = $p[$b + 1] - $p[$d + 1];
        $bdz = $p[$b + 2] - $p[$d + 2];
        $cdx = $p[$c] - $p[$d];
        $cdy = $p[$c + 1] - $p[$d + 1];
        $cdz = $p[$c + 2] - $p[$d + 2];
        $bc = $bdx * $cdy;
        $cb = $cdx * $bdy;
        $ca = $cdx * $ady;
        $ac = $adx * $cdy;
        $ab = $adx * $bdy;
        $ba = $bdx * $ady;
        $det = $adz * ($bc - $cb) + $bdz * ($ca - $ac) + $cdz * ($ab - $ba);
        $error = self::BOUND * ((abs($bc) + abs($cb)) * abs($adz) + (abs($ca) + abs($ac)) * abs($bdz) + (abs($ab) + abs($ba)) * abs($cdz));
        if ($det > $error) {
            return 1;
        }
        if (-$det > $error) {
            return -1;
        }

        return $error === 0.0 ? 0 : Expansion::sign(self::exactly($p, $a, $b, $c, $d));
    }

    /** (3 + 16 e) e with e = 2^-53. */
    private const FLAT_BOUND = 3.3306690738754716e-16;

    /**
     * On which side of a line a point lies, seen along an axis.
     *
     * @param  array<int, float>  $p  coordinates; those of the points a, b and c begin at these places
     * @param  int  $i  the coordinate that counts as the first, 0 to 2
     * @param  int  $j  and as the second
     * @return int 1 when c lies to the left of the way from a to b, -1 to the right, 0 on the line
     */
    public static function turn(array $p, int $a, int $b, int $c, int $i, int $j): int
    {
        $left = ($p[$a + $i] - $p[$c + $i]) * ($p[$b + $j] - $p[$c + $j]);
        $right = ($p[$a + $j] - $p[$c + $j]) * ($p[$b + $i] - $p[$c + $i]);
        $det = $left - $right;
        $error = self::FLAT_BOUND * (abs($left) + abs($right));
        if ($det > $error) {
            return 1;
        }
        if (-$det > $error) {
            return -1;
        }
        if ($error === 0.0) {
            return 0;
        }

        return Expansion::sign(self::exactTurn($p, $a, $b, $c, $i, $j));
    }

    /**
     * The determinant whose sign side() gives, without rounding.
     *
     * @param  array<int, float>  $p
     * @return list<float> an expansion
     */
    public static function exactly(array $p, int $a, int $b, int $c, int $d): array
    {
        $from = fn (int $q, int $k): array => Expansion::difference($p[$q + $k], $p[$d + $k]);
        $minor = fn (int $q, int $r): array => Expansion::plus(Expansion::times($from($q, 0), $from($r, 1)), Expansion::times(Expansion::minus($from($r, 0)), $from($q, 1)));

        return Expansion::plus(Expansion::plus(Expansion::times($minor($b, $c), $from($a, 2)), Expansion::times($minor($c, $a), $from($b, 2))), Expansion::times($minor($a, $b), $from($c, 2)));
    }

    /**
     * The determinant whose sign turn() gives, without rounding.
     *
     * @param  array<int, float>  $p
     * @return list<float> an expansion
     */
    public static function exactTurn(array $p, int $a, int $b, int $c, int $i, int $j): array
    {
        return Expansion::plus(
            Expansion::times(Expansion::difference($p[$a + $i], $p[$c + $i]), Expansion::difference($p[$b + $j], $p[$c + $j])),
            Expansion::times(Expansion::minus(Expansion::difference($p[$a + $j], $p[$c + $j])), Expansion::difference($p[$b + $i], $p[$c + $i])),
        );
    }
}
