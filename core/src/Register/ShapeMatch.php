<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Register\Kernel\Lookalikes;
use Emberstone\Core\Register\Kernel\ShapeHistograms;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * Guesses how one pass lies on another from the shape of both alone.
 *
 * Points whose surroundings look alike are paired; two such pairs, with the normals at all four ends, fix a pose. Those poses are kept
 * that many other pairs agree with. Source: sample consensus (Fischler & Bolles 1981) on pairs of oriented points (Drost et al. 2010,
 * who vote with them), matches by shape histograms (Rusu 2009).
 */
final class ShapeMatch
{
    /** Points with the most telling surroundings are compared, so many a pass. */
    private const KEYS = 900;

    /** So often two pairs are drawn. */
    private const DRAWS = 1_000_000;

    /** So many of the poses drawn are judged at a glance, by every so manieth pair, and so many times as many as are asked for with more care. */
    private const JUDGED = 4000;

    private const GLANCE = 24;

    private const BEST = 2;

    private const EVERY = 4;

    /**
     * @param  array<int, float>  $points  key points, flat xyz
     * @param  array<int, float>  $normals  outwards
     * @param  Lookalikes  $looks  of the surroundings of the key points
     */
    private function __construct(
        private readonly array $points,
        private readonly array $normals,
        private readonly Lookalikes $looks,
    ) {
    }

    /**
     * @param  array<int, float>  $p  flat xyz, evenly spread
     * @param  array<int, float>  $n  outwards
     */
    public static function of(array $p, array $n, float $radius): self
    {
        $all = ShapeHistograms::of($p, $n, $radius);
        $count = intdiv(count($p), 3);
        $bins = ShapeHistograms::BINS;
        $mean = array_fill(0, $bins, 0.0);
        foreach ($all as $k => $v) {
            $mean[$k % $bins] += $v / $count;
        }
        // Flat places look like all other flat places: what differs most from the mean tells most.
        $telling = [];
        for ($i = 0; $i < $count; $i++) {
            $d = 0.0;
            for ($c = 0, $o = $bins * $i; $c < $bins; $c++) {
                $d += ($all[$o + $c] - $mean[$c]) ** 2;
            }
            $telling[$i] = $d;
        }
        arsort($telling);
        $points = $normals = $histograms = [];
        foreach (array_slice(array_keys($telling), 0, self::KEYS) as $i) {
            array_push($points, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
            array_push($normals, $n[3 * $i], $n[3 * $i + 1], $n[3 * $i + 2]);
            array_push($histograms, ...array_slice($all, $bins * $i, $bins));
        }

        return new self($points, $normals, new Lookalikes($histograms));
    }

    /**
     * Poses of this pass on another, the most agreed with first, no two alike.
     *
     * @param  float  $tolerance  how far apart the same place may be on both
     * @return list<array{transform: Transform, agree: int}> from this pass' coordinates to the other's
     */
    public function onto(self $other, float $tolerance, int $most): array
    {
        $pairs = $this->pairs($other);
        $count = intdiv(count($pairs), 2);
        if ($count < 3) {
            return [];
        }
        [$p, $n, $q, $m] = [[], [], [], []];
        for ($k = 0; $k < $count; $k++) {
            for ($c = 0; $c < 3; $c++) {
                $p[] = $this->points[3 * $pairs[2 * $k] + $c];
                $n[] = $this->normals[3 * $pairs[2 * $k] + $c];
                $q[] = $other->points[3 * $pairs[2 * $k + 1] + $c];
                $m[] = $other->normals[3 * $pairs[2 * $k + 1] + $c];
            }
        }
        // Preemption (Nister 2005): few pairs tell most of the wrong poses.
        $drawn = [];
        foreach (self::draws($p, $n, $q, $m, $tolerance) as [$a, $b]) {
            $pose = self::pose($p, $n, $q, $m, $a, $b);
            $drawn[] = ['transform' => $pose, 'agree' => self::agreeing($pose->matrix, $p, $n, $q, $m, 2.0 * $tolerance, self::GLANCE)];
        }
        usort($drawn, fn (array $a, array $b) => $b['agree'] <=> $a['agree']);
        $found = array_map(
            fn (array $one) => ['agree' => self::agreeing($one['transform']->matrix, $p, $n, $q, $m, 2.0 * $tolerance, self::EVERY)] + $one,
            self::distinct($drawn, $p, $tolerance, self::BEST * $most),
        );
        usort($found, fn (array $a, array $b) => $b['agree'] <=> $a['agree']);

        return array_slice($found, 0, $most);
    }

    /**
     * Each point of either with the points of the other that look most like it.
     *
     * @return list<int> indices, this and the other's in turn
     */
    private function pairs(self $other): array
    {
        $pairs = [];
        foreach ($this->looks->mostLike($other->looks) as $k => $j) {
            $pairs[intdiv($k, Lookalikes::ALIKE) << 32 | $j] = $j >= 0;
        }
        foreach ($other->looks->mostLike($this->looks) as $k => $i) {
            $pairs[$i << 32 | intdiv($k, Lookalikes::ALIKE)] = $i >= 0;
        }
        $flat = [];
        foreach (array_keys(array_filter($pairs)) as $pair) {
            $flat[] = $pair >> 32;
            $flat[] = $pair & 0xFFFFFFFF;
        }

        return $flat;
    }

    /**
     * Two pairs at a time that could both be right: as far apart here as there, their normals at the same angles.
     *
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  list<float>  $q
     * @param  list<float>  $m
     * @return list<array{int, int}> offsets of pairs
     */
    private static function draws(array $p, array $n, array $q, array $m, float $tolerance): array
    {
        $count = intdiv(count($p), 3);
        $random = new Randomizer(new Xoshiro256StarStar(1902));
        $drawn = [];
        $least = 9.0 * $tolerance * $tolerance;
        for ($k = 0; $k < self::DRAWS && count($drawn) < self::JUDGED; $k++) {
            $a = 3 * $random->getInt(0, $count - 1);
            $b = 3 * $random->getInt(0, $count - 1);
            $dx = $p[$b] - $p[$a];
            $dy = $p[$b + 1] - $p[$a + 1];
            $dz = $p[$b + 2] - $p[$a + 2];
            $d = $dx * $dx + $dy * $dy + $dz * $dz;
            $ex = $q[$b] - $q[$a];
            $ey = $q[$b + 1] - $q[$a + 1];
            $ez = $q[$b + 2] - $q[$a + 2];
            $e = $ex * $ex + $ey * $ey + $ez * $ez;
            if ($d < $least || $e < $least) {
                continue;
            }
            $d = sqrt($d);
            $e = sqrt($e);
            if ($d - $e > $tolerance || $e - $d > $tolerance) {
                continue;
            }
            $d = 1.0 / $d;
            $e = 1.0 / $e;
            $off = ($n[$a] * $dx + $n[$a + 1] * $dy + $n[$a + 2] * $dz) * $d - ($m[$a] * $ex + $m[$a + 1] * $ey + $m[$a + 2] * $ez) * $e;
            if ($off > 0.15 || $off < -0.15) {
                continue;
            }
            $off = ($n[$b] * $dx + $n[$b + 1] * $dy + $n[$b + 2] * $dz) * $d - ($m[$b] * $ex + $m[$b + 1] * $ey + $m[$b + 2] * $ez) * $e;
            if ($off > 0.15 || $off < -0.15) {
                continue;
            }
            $off = $n[$a] * $n[$b] + $n[$a + 1] * $n[$b + 1] + $n[$a + 2] * $n[$b + 2] - $m[$a] * $m[$b] - $m[$a + 1] * $m[$b + 1] - $m[$a + 2] * $m[$b + 2];
            if ($off > 0.2 || $off < -0.2) {
                continue;
            }
            // Normals that both lie along the way from one to the other leave the turn around it open.
            if (abs($n[$a] * $dx + $n[$a + 1] * $dy + $n[$a + 2] * $dz) * $d > 0.97 && abs($n[$b] * $dx + $n[$b + 1] * $dy + $n[$b + 2] * $dz) * $d > 0.97) {
                continue;
            }
            $drawn[] = [$a, $b];
        }

        return $drawn;
    }

    /**
     * The pose that lays the way between two places, and the normals at both, along that between their partners.
     *
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  list<float>  $q
     * @param  list<float>  $m
     */
    private static function pose(array $p, array $n, array $q, array $m, int $a, int $b): Transform
    {
        [$from, $to] = [self::axes($p, $n, $a, $b, 1.0), self::axes($q, $m, $a, $b, 1.0)];
        if ($from === null || $to === null) {
            // Normals that cancel out across the way: their difference does not.
            [$from, $to] = [self::axes($p, $n, $a, $b, -1.0), self::axes($q, $m, $a, $b, -1.0)];
        }
        if ($from === null || $to === null) {
            return Transform::identity();
        }
        [$u, $v, $w, $x, $y, $z, $r, $s, $t] = $from;
        [$d, $e, $f, $g, $h, $i, $j, $k, $l] = $to;
        $turn = [
            $d * $u + $g * $x + $j * $r, $d * $v + $g * $y + $j * $s, $d * $w + $g * $z + $j * $t,
            $e * $u + $h * $x + $k * $r, $e * $v + $h * $y + $k * $s, $e * $w + $h * $z + $k * $t,
            $f * $u + $i * $x + $l * $r, $f * $v + $i * $y + $l * $s, $f * $w + $i * $z + $l * $t,
        ];
        [$x, $y, $z] = [0.5 * ($p[$a] + $p[$b]), 0.5 * ($p[$a + 1] + $p[$b + 1]), 0.5 * ($p[$a + 2] + $p[$b + 2])];

        return Transform::of($turn, [
            0.5 * ($q[$a] + $q[$b]) - $turn[0] * $x - $turn[1] * $y - $turn[2] * $z,
            0.5 * ($q[$a + 1] + $q[$b + 1]) - $turn[3] * $x - $turn[4] * $y - $turn[5] * $z,
            0.5 * ($q[$a + 2] + $q[$b + 2]) - $turn[6] * $x - $turn[7] * $y - $turn[8] * $z,
        ]);
    }

    /**
     * Three axes by two places: the way from one to the other, their normals as far as they stand across it, and what is square to both.
     *
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  float  $sign  of the second normal
     * @return array{float, float, float, float, float, float, float, float, float}|null null where the normals hardly stand across
     */
    private static function axes(array $p, array $n, int $a, int $b, float $sign): ?array
    {
        $x = $p[$b] - $p[$a];
        $y = $p[$b + 1] - $p[$a + 1];
        $z = $p[$b + 2] - $p[$a + 2];
        $l = 1.0 / max(1e-300, sqrt($x * $x + $y * $y + $z * $z));
        $x *= $l;
        $y *= $l;
        $z *= $l;
        $u = $n[$a] + $sign * $n[$b];
        $v = $n[$a + 1] + $sign * $n[$b + 1];
        $w = $n[$a + 2] + $sign * $n[$b + 2];
        $along = $u * $x + $v * $y + $w * $z;
        $u -= $along * $x;
        $v -= $along * $y;
        $w -= $along * $z;
        $l = sqrt($u * $u + $v * $v + $w * $w);
        if ($l < 0.3) {
            return null;
        }
        $u /= $l;
        $v /= $l;
        $w /= $l;

        return [$x, $y, $z, $u, $v, $w, $y * $w - $z * $v, $z * $u - $x * $w, $x * $v - $y * $u];
    }

    /**
     * @param  array<int, float>  $t  the pose's matrix
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  list<float>  $q
     * @param  list<float>  $m
     * @param  int  $every  so manieth pair is looked at
     */
    private static function agreeing(array $t, array $p, array $n, array $q, array $m, float $tolerance, int $every): int
    {
        [$t0, $t1, $t2, $t3, $t4, $t5, $t6, $t7, $t8, $t9, $t10, $t11] = $t;
        $most = $tolerance * $tolerance;
        $agree = 0;
        for ($o = 0, $e = count($p); $o < $e; $o += 3 * $every) {
            $x = $p[$o];
            $y = $p[$o + 1];
            $z = $p[$o + 2];
            $dx = $t0 * $x + $t1 * $y + $t2 * $z + $t3 - $q[$o];
            $dy = $t4 * $x + $t5 * $y + $t6 * $z + $t7 - $q[$o + 1];
            $dz = $t8 * $x + $t9 * $y + $t10 * $z + $t11 - $q[$o + 2];
            if ($dx * $dx + $dy * $dy + $dz * $dz > $most) {
                continue;
            }
            $x = $n[$o];
            $y = $n[$o + 1];
            $z = $n[$o + 2];
            if (($t0 * $x + $t1 * $y + $t2 * $z) * $m[$o] + ($t4 * $x + $t5 * $y + $t6 * $z) * $m[$o + 1] + ($t8 * $x + $t9 * $y + $t10 * $z) * $m[$o + 2] > 0.8) {
                $agree++;
            }
        }

        return $agree;
    }

    /**
     * @param  list<array{transform: Transform, agree: int}>  $found  the most agreed with first
     * @param  list<float>  $p
     * @return list<array{transform: Transform, agree: int}>
     */
    private static function distinct(array $found, array $p, float $tolerance, int $most): array
    {
        // Two poses are alike when they bring four points of the pass to nearly the same places.
        $probe = [];
        for ($k = 0, $n = intdiv(count($p), 3); $k < 4; $k++) {
            array_push($probe, ...array_slice($p, 3 * intdiv($k * ($n - 1), 3), 3));
        }
        $kept = $places = [];
        foreach ($found as $one) {
            $at = $one['transform']->points($probe);
            foreach ($places as $place) {
                $d = 0.0;
                foreach ($at as $k => $v) {
                    $d = max($d, abs($v - $place[$k]));
                }
                if ($d < 4.0 * $tolerance) {
                    continue 2;
                }
            }
            $kept[] = $one;
            $places[] = $at;
            if (count($kept) === $most) {
                break;
            }
        }

        return $kept;
    }
}
