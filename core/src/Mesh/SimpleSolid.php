<?php

declare(strict_types=1);

namespace Emberstone\Core\Mesh;

use Emberstone\Core\Geometry\Vector3;

/** Closed meshes of shapes that have a formula: all of their surface is marked as made. They stand on a place, along a direction. */
final class SimpleSolid
{
    /** The flats of a round wall lie this near to the round shape, mm, within the bounds on their number that follow. */
    public const SAGITTA = 0.002;

    private const LEAST_FLATS = 48;

    private const MOST_FLATS = 360;

    /** How many flats make a round wall of a radius, mm: a multiple of four, so that it is as wide along both axes. */
    public static function flats(float $radius): int
    {
        $wanted = $radius > self::SAGITTA ? M_PI / acos(1.0 - self::SAGITTA / $radius) : 0.0;

        return 4 * (int) ceil(max(self::LEAST_FLATS, min(self::MOST_FLATS, $wanted)) / 4.0);
    }

    /**
     * @param  array{float, float, float}  $base  the middle of the bottom
     * @param  array{float, float, float}  $up  of length 1
     * @param  array{float, float, float}  $size  along the first axis across, the second, and up; mm
     */
    public static function box(array $base, array $up, array $size): TriangleMesh
    {
        [$x, $y, $z] = [0.5 * $size[0], 0.5 * $size[1], $size[2]];

        return self::standing([
            -$x, -$y, 0.0, $x, -$y, 0.0, $x, $y, 0.0, -$x, $y, 0.0, -$x, -$y, $z, $x, -$y, $z, $x, $y, $z, -$x, $y, $z,
        ], [0, 2, 1, 0, 3, 2, 4, 5, 6, 4, 6, 7, 0, 1, 5, 0, 5, 4, 1, 2, 6, 1, 6, 5, 2, 3, 7, 2, 7, 6, 3, 0, 4, 3, 4, 7], $base, $up);
    }

    /**
     * A cylinder, or a cone that is cut off where its two diameters differ.
     *
     * @param  array{float, float, float}  $base  the middle of the bottom
     * @param  array{float, float, float}  $up  of length 1
     * @param  float  $top  diameter at the top, mm; 0 for a point
     */
    public static function cone(array $base, array $up, float $bottom, float $top, float $height): TriangleMesh
    {
        return self::lathed([[0.5 * $bottom, 0.0], [0.5 * $top, $height]], $base, $up);
    }

    /**
     * @param  array{float, float, float}  $base
     * @param  array{float, float, float}  $up
     */
    public static function tube(array $base, array $up, float $outer, float $inner, float $height): TriangleMesh
    {
        return self::turned([[0.5 * $inner, 0.0], [0.5 * $outer, 0.0], [0.5 * $outer, $height], [0.5 * $inner, $height]], self::flats(0.5 * $outer), $base, $up, false);
    }

    /**
     * A ball that touches the base from above.
     *
     * @param  array{float, float, float}  $base
     * @param  array{float, float, float}  $up
     */
    public static function ball(array $base, array $up, float $diameter): TriangleMesh
    {
        $radius = 0.5 * $diameter;
        $n = self::flats($radius);
        $profile = [];
        for ($k = 0, $rings = intdiv($n, 2); $k <= $rings; $k++) {
            $angle = M_PI * $k / $rings;
            $profile[] = [$k === 0 || $k === $rings ? 0.0 : $radius * sin($angle), $radius - $radius * cos($angle)];
        }

        return self::turned($profile, $n, $base, $up, true);
    }

    /**
     * A solid turned about an axis, closed flat at both ends.
     *
     * @param  non-empty-list<array{float, float}>  $profile  radius and height along the axis, from the bottom to the top; radii more than 0 but at the ends
     * @param  array{float, float, float}  $base
     * @param  array{float, float, float}  $up  of length 1
     */
    public static function lathed(array $profile, array $base, array $up): TriangleMesh
    {
        return self::turned($profile, self::flats(max(array_column($profile, 0))), $base, $up, true);
    }

    /**
     * The same drawn out sideways, as the tool that makes a slot: half of it stands at either end, with straight walls between them.
     *
     * @param  non-empty-list<array{float, float}>  $profile  as for lathed()
     * @param  array{float, float, float}  $base
     * @param  array{float, float, float}  $up  of length 1
     * @param  array{float, float, float}  $slot  from the base to the middle of one end, square to `up`
     */
    public static function slotted(array $profile, array $base, array $up, array $slot): TriangleMesh
    {
        // X and Y as in standing().
        [$beside, $back] = Vector3::square($up);

        return self::turned($profile, self::flats(max(array_column($profile, 0))), $base, $up, true, [-Vector3::dot($slot, $back), Vector3::dot($slot, $beside)]);
    }

    /**
     * Places around an axis, one turn of them.
     *
     * @param  array{float, float}  $slot
     * @return list<array{float, float, float, float}> of a circle of radius 1, and what is added to it
     */
    private static function around(int $flats, array $slot): array
    {
        if ($slot === [0.0, 0.0]) {
            return array_map(fn (int $k) => [cos(2.0 * M_PI * $k / $flats), sin(2.0 * M_PI * $k / $flats), 0.0, 0.0], range(0, $flats - 1));
        }
        // Both halves begin and end square to the slot, where the straight walls touch them.
        $around = [];
        $along = atan2($slot[1], $slot[0]);
        foreach ([1.0, -1.0] as $end) {
            for ($k = 0; $k <= intdiv($flats, 2); $k++) {
                $angle = $along + M_PI * (2.0 * $k / $flats - 0.5 * $end);
                $around[] = [cos($angle), sin($angle), $end * $slot[0], $end * $slot[1]];
            }
        }

        return $around;
    }

    /**
     * A profile turned about the upward axis.
     *
     * @param  list<array{float, float}>  $profile  radius and height, counter-clockwise with the axis to its left; a radius of 0 only at its ends
     * @param  bool  $isOpen  the profile ends at the axis: its ends are closed flat; else it is closed in itself
     * @param  array{float, float, float}  $base
     * @param  array{float, float, float}  $up
     * @param  array{float, float}  $slot  see slotted()
     */
    private static function turned(array $profile, int $flats, array $base, array $up, bool $isOpen, array $slot = [0.0, 0.0]): TriangleMesh
    {
        $around = self::around($flats, $slot);
        $flats = count($around);
        if ($isOpen) {
            // Flat ends run to the axis.
            $profile = [...($profile[0][0] > 0.0 ? [[0.0, $profile[0][1]]] : []), ...$profile];
            $last = $profile[count($profile) - 1];
            $profile = [...$profile, ...($last[0] > 0.0 ? [[0.0, $last[1]]] : [])];
        }
        $p = $rings = $f = [];
        foreach ($profile as [$radius, $height]) {
            $rings[] = intdiv(count($p), 3);
            foreach ($radius > 0.0 ? $around : [[0.0, 0.0, 0.0, 0.0]] as [$c, $s, $x, $y]) {
                array_push($p, $radius * $c + $x, $radius * $s + $y, $height);
            }
        }
        $count = count($profile);
        for ($ring = 0; $ring < ($isOpen ? $count - 1 : $count); $ring++) {
            [$a, $b] = [$rings[$ring], $rings[($ring + 1) % $count]];
            [$isPointA, $isPointB] = [$profile[$ring][0] <= 0.0, $profile[($ring + 1) % $count][0] <= 0.0];
            for ($k = 0; $k < $flats; $k++) {
                $next = ($k + 1) % $flats;
                if (! $isPointA) {
                    array_push($f, $a + $k, $a + $next, $isPointB ? $b : $b + $k);
                }
                if (! $isPointB) {
                    array_push($f, $isPointA ? $a : $a + $next, $b + $next, $b + $k);
                }
            }
        }

        return self::standing($p, $f, $base, $up);
    }

    /**
     * @param  list<float>  $p  as it stands on the origin, along Z
     * @param  list<int>  $f
     * @param  array{float, float, float}  $base
     * @param  array{float, float, float}  $up
     */
    private static function standing(array $p, array $f, array $base, array $up): TriangleMesh
    {
        // X and Y for Z.
        [$beside, $back] = Vector3::square($up);
        $across = Vector3::scaled($back, -1.0);
        $placed = [];
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            for ($k = 0; $k < 3; $k++) {
                $placed[] = $base[$k] + $p[$o] * $across[$k] + $p[$o + 1] * $beside[$k] + $p[$o + 2] * $up[$k];
            }
        }

        return TriangleMesh::fromFlat($placed, $f, [], array_fill(0, intdiv(count($f), 3), TriangleMesh::MADE));
    }
}
