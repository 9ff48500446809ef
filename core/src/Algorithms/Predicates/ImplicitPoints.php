<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Predicates;

/**
 * Points that are given, and points where an edge between two of those meets a plane or another edge: known by what they lie on, so that questions about them have exact answers though their
 * coordinates are rounded.
 *
 * Source    Attene 2020, "Indirect Predicates for Geometric Constructions": a crossing is kept as a + t (b - a), with t of two determinants; a question is asked of rounded coordinates with a bound on
 *           their error first, and of homogeneous coordinates (X, Y, Z, W) after that. Departs: exact answers are expansions (Shewchuk 1997) of determinants in X and W at once, without an interval stage.
 * Error     rounded coordinates are within `error()` of the crossing: a few units in the last place of the ends of the edge.
 * Limits    see Orient3d.
 *
 * @internal
 */
final class ImplicitPoints
{
    /** Of the way along its edge, what a crossing may be off by before it is computed anew in exact arithmetic. */
    private const COARSE = 1e-13;

    /** What rounding does to an exact way along an edge, and to a coordinate: two units in the last place of it. */
    private const ROUNDING = 4.5e-16;

    /** (7 + 56 e) e with e = 2^-53, see Orient3d; and (3 + 16 e) e. */
    private const SIDE_BOUND = 7.771561172376103e-16;

    private const TURN_BOUND = 3.3306690738754716e-16;

    /** @var array<int, array{int, int, list<int>}> of each crossing: the ends of its edge, and what asks on which side of the other thing a point lies (c, d, e of a plane, or c, d, i, j of a line seen along an axis) */
    private array $made = [];

    /** @var array<int, float> of each crossing */
    private array $errors = [];

    /** @var array<int, array{list<float>, list<float>, list<float>, list<float>}> X, Y, Z, W as expansions, of crossings that were asked for them */
    private array $exact = [];

    /** @param  array<int, float>  $positions  flat xyz of the given points; crossings are appended */
    public function __construct(public array $positions)
    {
    }

    /** @return array{float, float, float} rounded coordinates, mm */
    public function place(int $v): array
    {
        return [$this->positions[3 * $v], $this->positions[3 * $v + 1], $this->positions[3 * $v + 2]];
    }

    /** How far off the rounded coordinates of a point may be, mm. */
    public function error(int $v): float
    {
        return $this->errors[$v] ?? 0.0;
    }

    /** @return array{int, int}|null the ends of the edge that a crossing lies on; null for a given point */
    public function edge(int $v): ?array
    {
        return isset($this->made[$v]) ? [$this->made[$v][0], $this->made[$v][1]] : null;
    }

    /**
     * Adds the point where the edge from a to b meets the plane of c, d and e, which has a and b strictly on different sides. All of them are given points.
     *
     * @return int its index
     */
    public function onPlane(int $a, int $b, int $c, int $d, int $e): int
    {
        return $this->add($a, $b, [$c, $d, $e]);
    }

    /**
     * Adds the point where the edge from a to b meets that from c to d, in one plane with it and with a and b strictly on different sides.
     *
     * @param  int  $i  the coordinates in which the four are seen, as the plane is not seen edge-on
     * @return int its index
     */
    public function onLine(int $a, int $b, int $c, int $d, int $i, int $j): int
    {
        return $this->add($a, $b, [$c, $d, $i, $j]);
    }

    /** @param  list<int>  $other */
    private function add(int $a, int $b, array $other): int
    {
        $p = $this->positions;
        [$sa, $ea] = $this->rounded($a, $other);
        [$sb, $eb] = $this->rounded($b, $other);
        $range = abs($sa - $sb);
        $off = $range > 0.0 ? 2.0 * ($ea + $eb) / $range + self::ROUNDING : INF;
        if ($off > self::COARSE) {
            [$sa, $sb] = [Expansion::value($this->exactly($a, $other)), Expansion::value($this->exactly($b, $other))];
            $off = 2.0 * self::ROUNDING;
        }
        // From the nearer end, for fewer digits lost.
        [$from, $to, $t] = abs($sa) <= abs($sb) ? [$a, $b, $sa / ($sa - $sb)] : [$b, $a, $sb / ($sb - $sa)];
        $longest = $largest = 0.0;
        $v = intdiv(count($p), 3);
        $at = [];
        for ($k = 0; $k < 3; $k++) {
            [$x, $y] = [$p[3 * $from + $k], $p[3 * $to + $k]];
            $at[] = $x + $t * ($y - $x);
            $longest = max($longest, abs($y - $x));
            $largest = max($largest, abs($x), abs($y));
        }
        // While a second name holds the coordinates, appending would copy them all.
        unset($p);
        array_push($this->positions, ...$at);
        $this->made[$v] = [$a, $b, $other];
        $this->errors[$v] = $longest * $off + $largest * self::ROUNDING;

        return $v;
    }

    /**
     * @param  list<int>  $other
     * @return array{float, float} a determinant and the most that it may be off by
     */
    private function rounded(int $v, array $other): array
    {
        $p = $this->positions;
        $o = 3 * $v;
        [$a, $b] = [3 * $other[0], 3 * $other[1]];
        if (count($other) === 4) {
            [, , $i, $j] = $other;
            $left = ($p[$a + $i] - $p[$o + $i]) * ($p[$b + $j] - $p[$o + $j]);
            $right = ($p[$a + $j] - $p[$o + $j]) * ($p[$b + $i] - $p[$o + $i]);

            return [$left - $right, self::TURN_BOUND * (abs($left) + abs($right))];
        }
        $c = 3 * $other[2];
        [$ax, $ay, $az] = [$p[$a] - $p[$o], $p[$a + 1] - $p[$o + 1], $p[$a + 2] - $p[$o + 2]];
        [$bx, $by, $bz] = [$p[$b] - $p[$o], $p[$b + 1] - $p[$o + 1], $p[$b + 2] - $p[$o + 2]];
        [$cx, $cy, $cz] = [$p[$c] - $p[$o], $p[$c + 1] - $p[$o + 1], $p[$c + 2] - $p[$o + 2]];
        $size = (abs($bx * $cy) + abs($cx * $by)) * abs($az) + (abs($cx * $ay) + abs($ax * $cy)) * abs($bz) + (abs($ax * $by) + abs($bx * $ay)) * abs($cz);

        return [$az * ($bx * $cy - $cx * $by) + $bz * ($cx * $ay - $ax * $cy) + $cz * ($ax * $by - $bx * $ay), self::SIDE_BOUND * $size];
    }

    /**
     * @param  list<int>  $other
     * @return list<float>
     */
    private function exactly(int $v, array $other): array
    {
        return Expansion::compressed(count($other) === 4
            ? Orient3d::exactTurn($this->positions, 3 * $other[0], 3 * $other[1], 3 * $v, $other[2], $other[3])
            : Orient3d::exactly($this->positions, 3 * $other[0], 3 * $other[1], 3 * $other[2], 3 * $v));
    }

    /** @return array{list<float>, list<float>, list<float>, list<float>} */
    private function homogeneous(int $v): array
    {
        if (! isset($this->made[$v])) {
            $term = fn (float $x): array => $x === 0.0 ? [] : [$x];

            return [$term($this->positions[3 * $v]), $term($this->positions[3 * $v + 1]), $term($this->positions[3 * $v + 2]), [1.0]];
        }
        if (! isset($this->exact[$v])) {
            [$a, $b, $other] = $this->made[$v];
            $sa = $this->exactly($a, $other);
            $minusSb = Expansion::minus($this->exactly($b, $other));
            $along = fn (int $k): array => Expansion::compressed(Expansion::plus(Expansion::times($sa, [$this->positions[3 * $b + $k]]), Expansion::times($minusSb, [$this->positions[3 * $a + $k]])));
            $this->exact[$v] = [$along(0), $along(1), $along(2), Expansion::compressed(Expansion::plus($sa, $minusSb))];
        }

        return $this->exact[$v];
    }

    /**
     * On which side of a line a point lies, seen along an axis; see Orient3d::turn().
     *
     * @return int 1 when c lies to the left of the way from a to b, -1 to the right, 0 on the line
     */
    public function turn(int $a, int $b, int $c, int $i, int $j): int
    {
        $p = $this->positions;
        $ea = $this->errors[$a] ?? 0.0;
        $eb = $this->errors[$b] ?? 0.0;
        $ec = $this->errors[$c] ?? 0.0;
        if ($ea + $eb + $ec === 0.0) {
            return Orient3d::turn($p, 3 * $a, 3 * $b, 3 * $c, $i, $j);
        }
        [$a3, $b3, $c3] = [3 * $a, 3 * $b, 3 * $c];
        $ai = $p[$a3 + $i] - $p[$c3 + $i];
        $aj = $p[$a3 + $j] - $p[$c3 + $j];
        $bi = $p[$b3 + $i] - $p[$c3 + $i];
        $bj = $p[$b3 + $j] - $p[$c3 + $j];
        $left = $ai * $bj;
        $right = $aj * $bi;
        $ea += $ec;
        $eb += $ec;
        $error = 1.01 * (self::TURN_BOUND * (abs($left) + abs($right)) + (abs($ai) + abs($aj)) * $eb + (abs($bi) + abs($bj)) * $ea + 2.0 * $ea * $eb);
        $det = $left - $right;
        if ($det > $error) {
            return 1;
        }
        if (-$det > $error) {
            return -1;
        }

        return $this->exactTurn($a, $b, $c, $i, $j);
    }

    private function exactTurn(int $a, int $b, int $c, int $i, int $j): int
    {
        [$ha, $hb, $hc] = [$this->homogeneous($a), $this->homogeneous($b), $this->homogeneous($c)];
        $minor = fn (array $q, array $r, int $k, int $l): array => Expansion::compressed(Expansion::plus(Expansion::times($q[$k], $r[$l]), Expansion::minus(Expansion::times($q[$l], $r[$k]))));
        // The determinant of the rows (X, Y, W), by its last column.
        $sum = Expansion::plus(Expansion::plus(Expansion::times($minor($ha, $hb, $i, $j), $hc[3]), Expansion::times($minor($hb, $hc, $i, $j), $ha[3])), Expansion::times($minor($hc, $ha, $i, $j), $hb[3]));

        return Expansion::sign($sum) * Expansion::sign($ha[3]) * Expansion::sign($hb[3]) * Expansion::sign($hc[3]);
    }

    /** The order of two points along a coordinate axis: -1 where a comes first, 0 where they are level. */
    public function compare(int $a, int $b, int $axis): int
    {
        $way = $this->positions[3 * $a + $axis] - $this->positions[3 * $b + $axis];
        if (abs($way) > 1.01 * ($this->error($a) + $this->error($b))) {
            return $way <=> 0.0;
        }
        [$ha, $hb] = [$this->homogeneous($a), $this->homogeneous($b)];
        $difference = Expansion::plus(Expansion::times($ha[$axis], $hb[3]), Expansion::minus(Expansion::times($hb[$axis], $ha[3])));

        return Expansion::sign($difference) * Expansion::sign($ha[3]) * Expansion::sign($hb[3]);
    }
}
